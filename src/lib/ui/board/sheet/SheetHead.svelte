<script lang="ts">
  import type { Snippet } from 'svelte';
  import { signalsOf, type Board } from '$lib/core/board';
  import { picksOf } from '$lib/core/signal';
  import { spokenDuration } from '$lib/core/time';
  import { setParameters } from '../../address';
  import PutMark from '../../mark/PutMark.svelte';
  import { useReader } from '../../time/reader';
  import { useBoardContext } from '../data/board-context.svelte';
  import PickerBar from '../pickers/PickerBar.svelte';

  interface Props {
    board: Board;
    /** The stored board that it is; null for a ready one. */
    id: number | null;
    /** Services whose marks are shown. */
    services: readonly string[];
    /** Whether choosing a span on one panel moves all. */
    linked: boolean;
    /** More beside the pickers. */
    beside: Snippet | undefined;
  }
  let { board, id, services, linked = $bindable(), beside }: Props = $props();
  const boardContext = useBoardContext();
  const reader = useReader();
  const isOfPeople = $derived(boardContext.who === 'people');
  const metricNames = $derived([
    ...new Set(board.panels.flatMap(signalsOf).flatMap((signal) => picksOf(signal).map(({ metric }) => metric)))
  ]);
</script>

<div class={['flex flex-wrap items-center gap-2', boardContext.who !== 'wall' && 'mb-2.5']}>
  {#if isOfPeople}
    <PickerBar
      pickers={board.pickers}
      choices={boardContext.choices}
      metrics={metricNames}
      onChoose={boardContext.choose}
    />
  {:else}
    {#each board.pickers.filter(({ name }) => (boardContext.choices[name] ?? []).length > 0) as { name, title } (name)}
      <span class="text-[13px]"
        ><span class="text-quiet">{title}</span> <b>{(boardContext.choices[name] ?? []).join(', ')}</b></span
      >
    {/each}
  {/if}
  {@render beside?.()}
  {#if boardContext.earlier !== undefined}
    <span class="text-[13px]" role="status"
      >Dotted: {spokenDuration(boardContext.earlier)} earlier.
      <button class="link" onclick={() => setParameters({ earlier: null })}>Compare no more</button></span
    >
  {/if}
  {#if !boardContext.editing && boardContext.who !== 'wall' && board.panels.some((panel) => signalsOf(panel).length > 0)}
    <label class="text-quiet ml-auto flex items-center gap-1.5 text-[13px] whitespace-nowrap">
      <input type="checkbox" bind:checked={linked} />All panels move together
    </label>
    {#if reader.mayEdit}<PutMark board={id} {services} />{/if}
  {/if}
</div>
