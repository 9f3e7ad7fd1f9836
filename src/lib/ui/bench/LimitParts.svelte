<script lang="ts">
  import { limitSchema, type Limit, type Signal } from '$lib/core/signal';

  interface Props {
    signal: Signal;
    /** With nothing, all series are shown. */
    onChange: (limit: Limit | undefined) => void;
  }
  let { signal, onChange }: Props = $props();
  const limit = $derived(signal.limit);
  const usual: Limit = { keep: 5, order: 'highest', by: 'avg', rest: 'leave out' };

  function change(to: Partial<Limit>): void {
    const read = limitSchema.safeParse({ ...(limit ?? usual), ...to });
    if (read.success) onChange(read.data);
  }
</script>

{#if limit}
  the
  <select
    class="part"
    aria-label="Which series are shown"
    value={limit.order}
    onchange={(event) => change({ order: event.currentTarget.value as Limit['order'] })}
    ><option>highest</option><option>lowest</option></select
  >
  <input
    class="part w-[5ch] text-center"
    type="number"
    min="1"
    max="500"
    aria-label="How many series are shown"
    value={limit.keep}
    onchange={(event) => change({ keep: event.currentTarget.valueAsNumber })}
  />
  by
  <select
    class="part"
    aria-label="Figure they are ranked by"
    value={limit.by}
    onchange={(event) => change({ by: event.currentTarget.value as Limit['by'] })}
    >{#each [['avg', 'average'], ['max', 'maximum'], ['min', 'minimum'], ['last', 'last value'], ['sum', 'sum']] as [value, words] (value)}<option
        {value}>{words}</option
      >{/each}</select
  >, the others
  <select
    class="part"
    aria-label="What happens to the others"
    value={limit.rest}
    onchange={(event) => change({ rest: event.currentTarget.value as Limit['rest'] })}
    ><option value="leave out">left out</option><option value="sum">added up as others</option><option value="avg"
      >averaged as others</option
    ></select
  ><button class="text-deep ml-1 text-[13px]" onclick={() => onChange(undefined)}>all series again</button>
{:else}
  <button class="part" onclick={() => onChange(usual)}>all series</button>
{/if}
