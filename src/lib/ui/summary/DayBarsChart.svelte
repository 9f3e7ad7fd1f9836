<script lang="ts">
  import { Chart } from '../chart/registered';
  import { themeColour, useTheme } from '../chart/theme.svelte';
  import { dayBars, type DayBars } from './day-bars';

  interface Props {
    bars: DayBars;
    /** A value of the axis in words. */
    valueWords: (value: number) => string;
    /** What the chart shows, for people who cannot see it. */
    label: string;
  }
  let { bars, valueWords, label }: Props = $props();
  const theme = useTheme();
  let canvas: HTMLCanvasElement;

  $effect(() => {
    void theme.night; // painted with the colours of the theme
    const chart = new Chart(canvas, dayBars(bars, valueWords, themeColour));
    return () => chart.destroy();
  });
</script>

<div class="relative h-[150px]"><canvas bind:this={canvas} aria-label={label}></canvas></div>
