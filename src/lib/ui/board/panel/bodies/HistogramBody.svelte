<script lang="ts">
  import { histogramOf, type PanelOf } from '$lib/core/board';
  import { valuesOf } from '$lib/core/series';
  import { digits, displayScale } from '$lib/core/units';
  import { Chart } from '../../../chart/registered';
  import { themeColour, useTheme } from '../../../chart/theme.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';

  let { panel, view, label }: { panel: PanelOf<'histogram'>; view: PanelView; label: string } = $props();
  const theme = useTheme();
  let canvas = $state<HTMLCanvasElement>();
  let chart: Chart<'bar', number[], string> | null = null;
  const answer = $derived(view.data('main').answer);
  const bins = $derived(answer ? histogramOf(answer.series.map(valuesOf), panel.bins) : []);
  const scale = $derived(
    displayScale(
      answer?.rows[0]?.unit ?? '1',
      bins.flatMap(({ from, to }) => [from, to])
    )
  );

  $effect(() => {
    if (!canvas) return;
    void theme.night;
    const quiet = themeColour('--quiet');
    const written = (value: number) => digits(value / scale.divisor);
    const data = {
      labels: bins.map(({ from, to }) => (from === to ? written(from) : `${written(from)} to ${written(to)}`)),
      datasets: [
        {
          data: bins.map(({ count }) => count),
          backgroundColor: themeColour('--hue-1'),
          categoryPercentage: 1,
          barPercentage: 0.94
        }
      ]
    };
    const options = {
      animation: false as const,
      maintainAspectRatio: false,
      events: [],
      scales: {
        x: {
          grid: { display: false },
          border: { color: themeColour('--line-strong') },
          ticks: { color: quiet, maxRotation: 0, autoSkipPadding: 20 }
        },
        y: {
          border: { display: false, dash: [2, 3] },
          grid: { color: themeColour('--line') },
          ticks: { color: quiet, maxTicksLimit: 4, precision: 0 }
        }
      }
    };
    if (chart === null) chart = new Chart(canvas, { type: 'bar', data, options });
    else {
      chart.data = data;
      chart.options = options;
      chart.update('none');
    }
  });
  $effect(() => () => {
    chart?.destroy();
    chart = null;
  });
</script>

<div class="relative min-h-0 flex-1"><canvas bind:this={canvas} aria-label={label}></canvas></div>
<p class="text-quiet text-[12px]">
  Cells by value{scale.text ? `, in ${scale.text.trim()}` : ''}; {bins
    .reduce((sum, { count }) => sum + count, 0)
    .toLocaleString('en')} in all
</p>
