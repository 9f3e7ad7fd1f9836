<script lang="ts">
  import { formOf } from '$lib/core/words/count';
  import { signalSchema, type Limit, type Signal } from '$lib/core/signal';
  import { durationFromText, spokenDuration } from '$lib/core/time';
  import { rescaling } from '$lib/core/units';
  import UnitChoice from '../unit/UnitChoice.svelte';
  import LimitParts from './LimitParts.svelte';

  interface Props {
    signal: Signal;
    /** The unit its numbers are in before one is chosen; null while it is not known. */
    unit: string | null;
    /** The newest of its numbers, in that unit. */
    example: number | null;
    onChange: (signal: Signal) => void;
  }
  let { signal, unit, example, onChange }: Props = $props();
  const steps = ['PT1M', 'PT5M', 'PT15M', 'PT1H', 'PT6H', 'P1D', 'P7D'];
  const warning = $derived(unit === null || signal.unit === undefined ? null : rescaling(unit, signal.unit, example));

  function change(to: { [Key in keyof Signal]?: Signal[Key] | undefined }): void {
    const next = Object.fromEntries(Object.entries({ ...signal, ...to }).filter(([, value]) => value !== undefined));
    const read = signalSchema.safeParse(next);
    if (read.success) onChange(read.data);
  }
</script>

<p class="text-[14.5px] leading-[2]">
  In cells of
  <select
    class="part"
    aria-label="Length of a cell"
    value={signal.step}
    onchange={(event) => change({ step: event.currentTarget.value })}
  >
    <option value="auto">what suits the range</option>
    {#each [...new Set([...steps, ...(signal.step === 'auto' ? [] : [signal.step])])] as step (step)}<option
        value={step}>{spokenDuration(durationFromText(step))}</option
      >{/each}
  </select>,
  <LimitParts {signal} onChange={(limit: Limit | undefined) => change({ limit })} />, shown in
  <UnitChoice
    label="Unit to show in"
    value={signal.unit}
    from={unit}
    {example}
    none="its own unit"
    onChoose={(code: string | undefined) => change({ unit: code })}
  />
  with
  <select
    class="part"
    aria-label="Digits after the point"
    value={String(signal.digits ?? 1)}
    onchange={(event) => change({ digits: Number(event.currentTarget.value) })}
  >
    {#each [0, 1, 2, 3, 4, 5, 6] as count (count)}<option value={String(count)}>{count}</option>{/each}
  </select>
  {formOf(signal.digits ?? 1, 'digit')} after the point.
</p>
{#if warning !== null}<p class="basis-full text-[13px]" role="status" data-testid="rescaled">
    <b class="text-major">!</b>
    {warning}
    <button class="link" onclick={() => change({ unit: undefined })}>Show in its own unit</button>
  </p>{/if}
