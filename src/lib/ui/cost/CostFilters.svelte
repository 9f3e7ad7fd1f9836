<script lang="ts">
  import { goto } from '$app/navigation';
  import X from '@lucide/svelte/icons/x';
  import {
    selectionWithout,
    costSearch,
    dimensionWords,
    groupWords,
    plainDimensions,
    type CostSelection,
    type CostDimension
  } from '$lib/core/cost';

  interface Props {
    selection: CostSelection;
    /** Keys of labels that something billed has. */
    labels: readonly string[];
    /** Names of resources that are kept, by what stands for them. */
    names: Readonly<Record<string, string>>;
  }
  let { selection, labels, names }: Props = $props();
  const dimensions = $derived<CostDimension[]>([...plainDimensions, ...labels.map((key) => `label:${key}` as const)]);
  const href = (to: CostSelection) => `/cost?${costSearch(to)}`;
  /** Most people look by these; the others stand in a list. */
  const first: readonly CostDimension[] = ['service', 'account', 'region', 'resource'];
  const others = $derived(dimensions.filter((by) => !first.includes(by)));
</script>

<span class="flex flex-wrap items-center gap-x-2 gap-y-1 text-[12px]">
  {#each selection.filters as { by, values } (by)}
    <a class="btn flex items-center gap-1 py-0.5 text-[12px]" href={href(selectionWithout(selection, by))}
      >{dimensionWords(by)}
      <b>{values.map((value) => groupWords(by, value, names[value] ?? '')).join(', ')}</b><X size={12} /><span
        class="sr-only">: show all</span
      ></a
    >
  {/each}
  {#each first as by (by)}
    <a
      class={selection.by === by ? 'font-semibold' : 'text-quiet hover:underline'}
      aria-current={selection.by === by ? 'true' : undefined}
      href={href({ ...selection, by })}>by {dimensionWords(by)}</a
    >
  {/each}
  <select
    class="field w-auto! px-1! py-0.5! text-[12px]!"
    aria-label="Divide by"
    onchange={(event) => {
      const by = event.currentTarget.value as CostDimension;
      if (by !== ('' as CostDimension)) void goto(href({ ...selection, by }));
    }}
  >
    <option value="" selected={first.includes(selection.by)}>by…</option>
    {#each others as by (by)}<option value={by} selected={selection.by === by}>by {dimensionWords(by)}</option>{/each}
  </select>
</span>
