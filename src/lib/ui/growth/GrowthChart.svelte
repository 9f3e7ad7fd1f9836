<script lang="ts">
  import { Chart } from '../chart/registered';
  import { themeColour, useTheme } from '../chart/theme.svelte';
  import { growthChart, type GrowthPicture } from './growth-chart';

  /** @param label what the chart shows, for people who cannot see it */
  let { picture, label }: { picture: GrowthPicture; label: string } = $props();
  const theme = useTheme();
  let canvas: HTMLCanvasElement;

  $effect(() => {
    void theme.night; // painted with the colours of the theme
    const chart = new Chart(canvas, growthChart(picture, themeColour));
    return () => chart.destroy();
  });
</script>

<div class="relative h-[260px]"><canvas bind:this={canvas} aria-label={label}></canvas></div>
