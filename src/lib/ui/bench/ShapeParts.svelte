<script lang="ts">
  import { formOf } from '$lib/core/words/count';
  import { signalSchema, type Limit, type Signal } from '$lib/core/signal';
  import { durationFromText, spokenDuration } from '$lib/core/time';
  import LimitParts from './LimitParts.svelte';

  interface Props {
    signal: Signal;
    onChange: (signal: Signal) => void;
  }
  let { signal, onChange }: Props = $props();
  const steps = ['PT1M', 'PT5M', 'PT15M', 'PT1H', 'PT6H', 'P1D', 'P7D'];
  const units = ['%', '1', 'By', 'By/s', 'bit/s', 's', 'ms', '{request}'];

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
  <select
    class="part"
    aria-label="Unit to show in"
    value={signal.unit ?? ''}
    onchange={(event) => change({ unit: event.currentTarget.value || undefined })}
  >
    <option value="">its own unit</option>
    {#each [...new Set([...units, ...(signal.unit ? [signal.unit] : [])])] as code (code)}<option value={code}
        >{code === '1' ? 'plain numbers' : code.replace(/[{}]/g, '')}</option
      >{/each}
  </select>
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
