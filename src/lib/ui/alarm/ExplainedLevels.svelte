<script lang="ts">
  import { cellCode, comparedText, explainLevel, type Explanation, type Rule } from '$lib/core/alarm';
  import { exactMoment, type Instant } from '$lib/core/time';
  import { digits, displayScale, limitText, quantity } from '$lib/core/units';
  import { useReader } from '../time/reader';
  import SeverityHoist from './SeverityHoist.svelte';

  interface Props {
    rule: Rule;
    explanation: Explanation;
    /** Whether it was raised before. */
    wasRaised: boolean;
  }
  let { rule, explanation, wasRaised }: Props = $props();
  const { zone } = useReader();
  const mostShown = 60;
  const { unit, step, until } = $derived(explanation);
  const scaleOf = (values: readonly (number | null)[]) =>
    displayScale(
      unit,
      values.flatMap((value) => value ?? [])
    );
  const written = (value: number | null, { divisor }: { divisor: number }) =>
    value === null ? 'gap' : divisor === 1 ? quantity(value, unit).number : digits(value / divisor);
  const boundText = (low: number | null, high: number | null) =>
    [low === null ? '' : `from ${limitText(low, unit)}`, high === null ? '' : `to ${limitText(high, unit)}`]
      .filter(Boolean)
      .join(' ') || 'no bound';
  const codeWords: Readonly<Record<number, string>> = {
    [cellCode.met]: 'meets it',
    [cellCode.missing]: 'no data',
    [cellCode.well]: 'well',
    [cellCode.between]: 'not well enough to clear'
  };
</script>

{#each explanation.levels as { level, values, low, high, codes } (level.severity)}
  {@const scale = scaleOf(values)}
  <div class="border-line border-b py-2 text-[13px] last:border-0" data-level={level.severity}>
    <p>
      <SeverityHoist severity={level.severity} /> <b class="ml-1">{level.severity}</b>
      {explainLevel(rule, { level, codes }, step, unit, wasRaised).join(' ')}
    </p>
    <p class="num mt-1 flex flex-wrap gap-1">
      {#if values.length > mostShown}<span class="text-quiet">…</span>{/if}
      {#each values as value, index (index)}
        {#if index >= values.length - mostShown}
          {@const code = Number(codes[index])}
          <span
            class={[
              'border-line rounded-[3px] border px-1',
              code === cellCode.met && 'bg-shallow font-bold',
              value === null && 'text-quiet border-dashed'
            ]}
            title="{exactMoment((until - (values.length - index) * step) as Instant, zone)}: {codeWords[
              code
            ]}, usual {boundText(low[index] ?? null, high[index] ?? null)}"
            >{level.condition.kind === 'absence' && value !== null
              ? comparedText(level.condition, value, unit)
              : written(value, scale)}</span
          >
        {/if}
      {/each}
      {#if level.condition.kind !== 'absence'}<span class="text-quiet">{scale.text}</span>{/if}
    </p>
  </div>
{/each}
