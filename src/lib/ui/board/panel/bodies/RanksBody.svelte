<script lang="ts">
  import { figuresOf, reached, type PanelOf } from '$lib/core/board';
  import { linesOf, searchBehind } from '$lib/core/signal';
  import { quantityText, unit } from '$lib/core/units';
  import LimitHoist from '../LimitHoist.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';
  import { huesOf } from '../picture-of';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel, view }: { panel: PanelOf<'ranks'>; view: PanelView } = $props();
  const boardContext = useBoardContext();
  /** What counts lines: each row leads to its own. */
  const lines = $derived(linesOf(panel.signal)[0]);
  const answer = $derived(view.data('main').answer);
  const code = $derived(answer?.rows[0]?.unit ?? '1');
  const figures = $derived(answer ? figuresOf(answer, panel.reduce) : []);
  const hue = $derived.by(() => {
    const hues = huesOf(answer?.series ?? []);
    return new Map((answer?.series ?? []).map(({ id }, index) => [id, hues[index]?.hue ?? 1]));
  });
  const most = $derived(unit(code).bounds?.[1] ?? Math.max(0, ...figures.map(({ figure }) => figure)));
</script>

<ul class="min-h-0 flex-1 overflow-y-auto text-[13px]">
  {#each figures as { series, figure } (series.id)}
    {@const limit = reached(panel.limits, figure, series.name)}
    <li
      class={[
        'border-line grid items-center gap-2 border-b py-0.5 last:border-0',
        lines === undefined ? 'grid-cols-[minmax(80px,34%)_1fr_96px]' : 'grid-cols-[minmax(80px,62%)_1fr_72px]'
      ]}
    >
      {#if lines !== undefined && boardContext.who === 'people'}
        <a
          class="truncate"
          title="Lines of: {series.name}"
          href={boardContext.href(`/logs?q=${encodeURIComponent(searchBehind(lines, series.labels))}`)}>{series.name}</a
        >
      {:else}
        <button class="truncate text-left" title={series.name} onclick={() => boardContext.open(series.resourceId)}
          >{series.name}</button
        >
      {/if}
      <span class="bg-sunk h-3">
        <span
          class="block h-full"
          style:width="{most > 0 ? Math.max(0, Math.min(100, (figure / most) * 100)) : 0}%"
          style:background="var(--{limit ? limit.severity : `hue-${hue.get(series.id) ?? 1}`})"
        ></span>
      </span>
      <span class="num inline-flex items-center justify-end gap-1.5"
        ><LimitHoist {limit} unit={code} />{quantityText(figure, code, panel.signal.digits)}</span
      >
    </li>
  {/each}
</ul>
