<script lang="ts">
  import { holds, type Rule } from '$lib/core/alarm';
  import type { Instant } from '$lib/core/time';
  import { digits, displayScale, limitText, quantity } from '$lib/core/units';
  import Moment from '../time/Moment.svelte';

  interface Props {
    change: {
      at: Instant;
      from: string;
      to: string;
      evidence: {
        values: readonly (number | null)[];
        met: number;
        missing: number;
        rule: Rule;
      };
    };
    unit: string;
    now: Instant;
  }
  let { change, unit, now }: Props = $props();
  const { rule, values, met, missing } = $derived(change.evidence);
  /** All numbers of a window are written on one scale. */
  const scale = $derived(
    displayScale(
      unit,
      values.flatMap((value) => value ?? [])
    )
  );
  const written = (value: number | null) =>
    value === null ? 'gap' : scale.divisor === 1 ? quantity(value, unit).number : digits(value / scale.divisor);
</script>

<div class="border-line border-b py-2 text-[13px] last:border-0">
  <p>
    <Moment at={change.at} {now} />: <b>{change.to}</b>, was {change.from}. {met} of {rule.window.of} windows {rule
      .condition.is}
    {limitText(rule.condition.threshold, unit)}{missing > 0 ? `, ${missing} without data` : ''}; needs {rule.window
      .needs}.
  </p>
  <p class="num mt-1 flex flex-wrap gap-1">
    {#each values as value, index (index)}
      <span
        class={[
          'border-line rounded-[3px] border px-1',
          value !== null && holds(rule.condition, value) && 'bg-shallow font-bold',
          value === null && 'text-quiet border-dashed'
        ]}>{written(value)}</span
      >
    {/each}
    <span class="text-quiet">{scale.text}</span>
  </p>
</div>
