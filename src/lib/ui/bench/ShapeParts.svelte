<script lang="ts">
  import { signalSchema, type Limit, type Signal } from '$lib/core/signal';
  import { durationFromText, spokenDuration } from '$lib/core/time';

  interface Props {
    signal: Signal;
    onChange: (signal: Signal) => void;
  }
  let { signal, onChange }: Props = $props();
  const steps = ['PT1M', 'PT5M', 'PT15M', 'PT1H', 'PT6H', 'P1D', 'P7D'];
  const units = ['%', '1', 'By', 'By/s', 'bit/s', 's', 'ms', '{request}'];
  const usual: Limit = { keep: 5, order: 'highest', by: 'avg', rest: 'leave out' };

  function change(to: { [Key in keyof Signal]?: Signal[Key] | undefined }): void {
    const next = Object.fromEntries(Object.entries({ ...signal, ...to }).filter(([, value]) => value !== undefined));
    const read = signalSchema.safeParse(next);
    if (read.success) onChange(read.data);
  }
  const limit = (to: Partial<Limit>) => change({ limit: { ...(signal.limit ?? usual), ...to } });
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
  {#if signal.limit}
    the
    <select
      class="part"
      aria-label="Which series are kept"
      value={signal.limit.order}
      onchange={(event) => limit({ order: event.currentTarget.value as Limit['order'] })}
      ><option>highest</option><option>lowest</option></select
    >
    <input
      class="part w-[5ch] text-center"
      type="number"
      min="1"
      max="500"
      aria-label="How many series are kept"
      value={signal.limit.keep}
      onchange={(event) => limit({ keep: event.currentTarget.valueAsNumber })}
    />
    by
    <select
      class="part"
      aria-label="Figure they are ranked by"
      value={signal.limit.by}
      onchange={(event) => limit({ by: event.currentTarget.value as Limit['by'] })}
      >{#each [['avg', 'average'], ['max', 'maximum'], ['min', 'minimum'], ['last', 'last value'], ['sum', 'sum']] as [value, words] (value)}<option
          {value}>{words}</option
        >{/each}</select
    >, the rest
    <select
      class="part"
      aria-label="What becomes of the rest"
      value={signal.limit.rest}
      onchange={(event) => limit({ rest: event.currentTarget.value as Limit['rest'] })}
      ><option value="leave out">left out</option><option value="sum">added up as others</option><option value="avg"
        >averaged as others</option
      ></select
    ><button class="text-deep ml-1 text-[13px]" onclick={() => change({ limit: undefined })}>all series again</button>,
  {:else}
    <button class="part" onclick={() => change({ limit: usual })}>all series</button>,
  {/if}
  shown in
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
  {(signal.digits ?? 1) === 1 ? 'digit' : 'digits'} after the point.
</p>
