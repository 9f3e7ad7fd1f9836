<script lang="ts">
  import { figuresOf, type PanelOf } from '$lib/core/board';
  import { quantity } from '$lib/core/units';
  import AsOf from '../AsOf.svelte';
  import Ruler from '../Ruler.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel, view }: { panel: PanelOf<'gauge'>; view: PanelView } = $props();
  const boardContext = useBoardContext();
  const answer = $derived(view.data('main').answer);
  const code = $derived(answer?.rows[0]?.unit ?? '1');
  const figures = $derived.by(() => {
    const all = answer ? figuresOf(answer, panel.reduce) : [];
    return panel.worse === 'below' ? all.reverse() : all;
  });
</script>

<div class="flex min-h-0 flex-1 flex-col justify-center-safe gap-1 overflow-y-auto">
  {#each figures as { series, figure, asOf } (series.id)}
    {#if figures.length > 1}
      <!-- It may not shrink: without room the list scrolls, and each keeps its name. -->
      <button
        class="mx-2 shrink-0 truncate text-left text-[12px]"
        title={series.name}
        onclick={() => boardContext.open(series.resourceId)}>{series.name}</button
      >
    {/if}
    <Ruler
      value={figure}
      scale={panel.scale}
      warning={panel.warning}
      danger={panel.danger}
      worse={panel.worse}
      unit={code}
      told={quantity(figure, code, panel.signal.digits)}
      isSmall={figures.length > 1}
    />
    {#if asOf !== null}
      <span class="text-quiet shrink-0 text-[12px]"><AsOf at={asOf} /></span>
    {/if}
  {/each}
</div>
