<script lang="ts">
  import { Chart } from '../chart/registered';
  import { themeColour, useTheme } from '../chart/theme.svelte';
  import { leftChart, type LeftPicture } from './left-chart';

  /** @param label what the chart shows, for people who cannot see it */
  let { picture, label }: { picture: LeftPicture; label: string } = $props();
  const theme = useTheme();
  let canvas: HTMLCanvasElement;

  $effect(() => {
    void theme.night; // painted with the colours of the theme
    const chart = new Chart(canvas, leftChart(picture, themeColour));
    return () => chart.destroy();
  });
</script>

<div class="relative h-[200px]"><canvas bind:this={canvas} aria-label={label}></canvas></div>
