<script lang="ts">
  import { figuresOf, type PanelOf } from '$lib/core/board';
  import { digits, displayScale } from '$lib/core/units';
  import { hueOf } from '../../../chart/picture';
  import { ArcElement, DoughnutController } from 'chart.js';
  import { Chart } from '../../../chart/registered';
  import { themeColour, useTheme } from '../../../chart/theme.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel, view, label }: { panel: PanelOf<'ring'>; view: PanelView; label: string } = $props();
  const boardContext = useBoardContext();
  const theme = useTheme();
  Chart.register(ArcElement, DoughnutController);
  /** Parts shown by name; the rest is one part. */
  const most = 7;
  let canvas = $state<HTMLCanvasElement>();
  let chart: Chart<'doughnut', number[]> | null = null;
  const answer = $derived(view.data('main').answer);
  const code = $derived(answer?.rows[0]?.unit ?? '1');
  const positive = $derived(answer ? figuresOf(answer, panel.reduce).filter(({ figure }) => figure > 0) : []);
  const total = $derived(positive.reduce((sum, { figure }) => sum + figure, 0));
  /** One scale for all, so that parts can be compared. */
  const scale = $derived(displayScale(code, [total]));
  const parts = $derived.by(() => {
    const named = positive.slice(0, most).map(({ series, figure }, index) => ({
      key: series.id,
      name: series.name,
      figure,
      resourceId: series.resourceId,
      colour: `--hue-${hueOf(index + 1).hue}`
    }));
    const rest = positive.slice(most).reduce((sum, { figure }) => sum + figure, 0);
    const others = { key: 0, name: `${positive.length - most} others`, figure: rest, resourceId: 0, colour: '--quiet' };
    return positive.length > most ? [...named, others] : named;
  });

  $effect(() => {
    if (!canvas) return;
    void theme.night; // painted with the colours of the theme
    const data = {
      labels: parts.map(({ name }) => name),
      datasets: [
        {
          data: parts.map(({ figure }) => figure),
          backgroundColor: parts.map(({ colour }) => themeColour(colour)),
          borderColor: themeColour('--surface'),
          borderWidth: 2
        }
      ]
    };
    if (chart === null)
      chart = new Chart(canvas, {
        type: 'doughnut',
        data,
        options: { animation: false, cutout: '68%', maintainAspectRatio: false, events: [] }
      });
    else {
      chart.data = data;
      chart.update('none');
    }
  });
  $effect(() => () => {
    chart?.destroy();
    chart = null;
  });
</script>

<div class="flex min-h-0 flex-1 items-stretch gap-3">
  <div class="relative min-w-[110px] basis-[42%]">
    <canvas bind:this={canvas} aria-label={label}></canvas>
    <b class="num pointer-events-none absolute inset-0 grid place-items-center text-center text-[14px]!"
      >{digits(total / scale.divisor)}<br />{scale.text}</b
    >
  </div>
  <ul class="max-h-full min-w-0 flex-1 self-center overflow-y-auto text-[12.5px]">
    {#each parts as { key, name, figure, colour, resourceId } (key)}
      <li class="flex items-center gap-2 py-0.5">
        <span class="size-2.5 shrink-0" style:background="var({colour})"></span>
        <button class="truncate text-left" disabled={resourceId === 0} onclick={() => boardContext.open(resourceId)}
          >{name}</button
        >
        <span class="num ml-auto whitespace-nowrap">{digits(figure / scale.divisor)}</span>
        <span class="num text-quiet w-[36px] shrink-0 text-right">{((figure / total) * 100).toFixed(0)} %</span>
      </li>
    {/each}
  </ul>
</div>
