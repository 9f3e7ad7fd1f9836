<script lang="ts">
  import { cellCode, comparedText, conditionIn, type Evidence } from '$lib/core/alarm';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import { digits, displayScale, quantity } from '$lib/core/units';
  import Moment from '../time/Moment.svelte';

  interface Props {
    change: {
      at: Instant;
      from: string;
      to: string;
      evidence: Evidence;
    };
    unit: string;
    now: Instant;
    /** Windows that read otherwise now than when it was decided. */
    late?: number;
  }
  let { change, unit, now, late = 0 }: Props = $props();
  const { level, window, values, codes, met, missing, start, step, arrived } = $derived(change.evidence);
  /** How long after its end the newest sample of a window came. */
  const cameText = (index: number) => {
    const at = arrived?.[index];
    if (at === undefined || at === null) return undefined;
    const after = at - (start + (index + 1) * step);
    return after <= 0
      ? 'its samples came before it ended'
      : `its newest sample came ${peopleDuration(duration(after))} after it ended`;
  };
  const isTime = $derived(level.condition.kind === 'absence');
  /** All numbers of a window are written on one scale. */
  const scale = $derived(
    displayScale(
      unit,
      values.flatMap((value) => value ?? [])
    )
  );
  const written = (value: number | null) => {
    if (value === null) return 'gap';
    if (isTime) return comparedText(level.condition, value, unit);
    return scale.divisor === 1 ? quantity(value, unit).number : digits(value / scale.divisor);
  };
</script>

<div class="border-line border-b py-2 text-[13px] last:border-0">
  <p>
    <Moment at={change.at} {now} />: <b>{change.to}</b>, was {change.from}. In {met} of {window.of} windows it {conditionIn(
      level.condition,
      unit
    )}{missing > 0 ? `, ${missing} without data` : ''}; needs {window.needs}.
  </p>
  {#if late > 0}<p class="fault text-[12px]">
      Samples came later: {late}
      {late === 1 ? 'window reads' : 'windows read'} otherwise now than when it was decided. What was decided stays.
    </p>{/if}
  <p class="num mt-1 flex flex-wrap gap-1">
    {#each values as value, index (index)}
      <span
        title={cameText(index)}
        class={[
          'border-line rounded-[3px] border px-1',
          Number(codes[index]) === cellCode.met && 'bg-shallow font-bold',
          value === null && 'text-quiet border-dashed'
        ]}>{written(value)}</span
      >
    {/each}
    {#if !isTime}<span class="text-quiet">{scale.text}</span>{/if}
  </p>
</div>
