<script lang="ts">
  import { Chart } from '../chart/registered';
  import { themeColour, useTheme } from '../chart/theme.svelte';
  import { monthChart, type MonthPicture } from './month-chart';

  interface Props {
    picture: MonthPicture;
    /** An amount of the axis in words. */
    amountWords: (amount: number) => string;
    /** What the chart shows, for people who cannot see it. */
    label: string;
  }
  let { picture, amountWords, label }: Props = $props();
  const theme = useTheme();
  let canvas: HTMLCanvasElement;

  $effect(() => {
    void theme.night; // painted with the colours of the theme
    const chart = new Chart(canvas, monthChart(picture, amountWords, themeColour));
    return () => chart.destroy();
  });
</script>

<div class="relative h-[200px]"><canvas bind:this={canvas} aria-label={label}></canvas></div>
