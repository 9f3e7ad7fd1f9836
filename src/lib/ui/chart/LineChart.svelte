<script lang="ts">
  import { fixedRange, type Instant } from '$lib/core/time';
  import { useReader } from '../time/reader';
  import { showRange } from '../time/shown';
  import { Chart, lineConfiguration, overlayPlugin } from './chart-setup';
  import { useHover } from './hover.svelte';
  import { cellOfInstant, type Limit, type Picture, type RaisedTicks } from './picture';
  import Readout from './Readout.svelte';
  import { useTheme } from './theme.svelte';

  interface Props {
    picture: Picture;
    /** What the chart shows, for people who cannot see it. */
    label: string;
    limits?: readonly Limit[];
    raised?: readonly RaisedTicks[];
    /** Pixels. */
    height?: number;
    /** Whether dragging across the chart chooses a range for the page. */
    choosesRange?: boolean;
  }
  let { picture, label, limits = [], raised = [], height = 150, choosesRange = true }: Props = $props();
  const { zone } = useReader();
  const hover = useHover();
  const theme = useTheme();
  let canvas: HTMLCanvasElement;
  let chart: Chart<'line', { x: number; y: number }[]> | null = null;
  let selection = $state<{ from: number; to: number } | null>(null);
  /** Where the pointer is on this chart, in pixels; null when it is elsewhere. */
  let pointer = $state<{ x: number; width: number } | null>(null);

  $effect(() => {
    void theme.night; // painted with the colours of the theme
    const configuration = lineConfiguration(picture, limits, zone, Math.round(canvas.clientWidth * devicePixelRatio));
    if (chart === null) {
      const overlay = overlayPlugin(() => ({ hover: hover.at, selection, raised }));
      chart = new Chart(canvas, { ...configuration, plugins: [overlay] });
    } else {
      chart.config.data = configuration.data;
      chart.config.options = configuration.options!;
      chart.update('none');
    }
  });
  $effect(() => () => {
    chart?.destroy();
    chart = null;
  });
  $effect(() => {
    void [hover.at, selection, raised];
    chart?.draw();
  });

  function instantUnder(x: number): Instant {
    return Math.round(chart?.scales['x']?.getValueForPixel(x) ?? 0) as Instant;
  }

  function onMove(event: PointerEvent): void {
    hover.at = instantUnder(event.offsetX);
    pointer = { x: event.offsetX, width: canvas.clientWidth };
    if (selection !== null) selection = { ...selection, to: event.offsetX };
  }

  function onLeave(): void {
    hover.at = pointer = null;
  }

  function onDown(event: PointerEvent): void {
    if (!choosesRange || event.button !== 0) return;
    selection = { from: event.offsetX, to: event.offsetX };
    canvas.setPointerCapture(event.pointerId);
  }

  function onUp(): void {
    if (selection === null) return;
    const [from, to] = [selection.from, selection.to].sort((a, b) => a - b).map(instantUnder) as [Instant, Instant];
    const far = Math.abs(selection.to - selection.from) > 5 && to - from >= 60_000;
    selection = null;
    if (far) void showRange(fixedRange(from, to));
  }

  const cell = $derived(hover.at === null ? -1 : cellOfInstant(picture, hover.at));
</script>

<div class="relative" style:height="{height}px">
  <canvas
    bind:this={canvas}
    aria-label={label}
    class="touch-pan-y"
    onpointermove={onMove}
    onpointerleave={onLeave}
    onpointerdown={onDown}
    onpointerup={onUp}
    ondblclick={() => choosesRange && history.back()}
  ></canvas>
  {#if pointer !== null && cell >= 0 && selection === null}
    <Readout {picture} {cell} x={pointer.x} width={pointer.width} />
  {/if}
</div>
