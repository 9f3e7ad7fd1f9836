<script lang="ts">
  import { type Instant } from '$lib/core/time';
  import { useReader } from '../time/reader';
  import { useTimeView } from '../time/view.svelte';
  import { useHover } from './hover.svelte';
  import { overlayPlugin } from './overlay';
  import { overTimeConfiguration, type TimeChartType } from './over-time';
  import { cellOfInstant, type Limit, type MarkFlag, type Picture, type RaisedTicks } from './picture';
  import Readout from './Readout.svelte';
  import { Chart } from './registered';
  import { useTheme } from './theme.svelte';

  interface Props {
    picture: Picture;
    /** What the chart shows, for people who cannot see it. */
    label: string;
    limits?: readonly Limit[];
    raised?: readonly RaisedTicks[];
    marks?: readonly MarkFlag[];
    /** Pixels; null fills what it lies in. */
    height?: number | null;
    /** Whether dragging across the chart chooses a range. */
    choosesRange?: boolean;
  }
  let { picture, label, limits = [], raised = [], marks = [], height = 150, choosesRange = true }: Props = $props();
  const reader = useReader();
  const view = useTimeView();
  const zone = $derived(view.zone ?? reader.zone);
  const hover = useHover();
  const theme = useTheme();
  let canvas: HTMLCanvasElement;
  let chart: Chart<TimeChartType, { x: number; y: number }[]> | null = null;
  let drawnAs: TimeChartType = 'line';
  let selection = $state<{ from: number; to: number } | null>(null);
  /** Where the pointer is on this chart, in pixels; null when it is elsewhere. */
  let pointer = $state<{ x: number; width: number } | null>(null);

  $effect(() => {
    void theme.night; // painted with the colours of the theme
    const columns = Math.round(canvas.clientWidth * devicePixelRatio);
    const configuration = overTimeConfiguration(picture, limits, zone, columns);
    const type = 'type' in configuration ? configuration.type : 'line';
    if (chart !== null && drawnAs !== type) {
      chart.destroy();
      chart = null;
    }
    drawnAs = type;
    if (chart === null) {
      const overlay = overlayPlugin<TimeChartType>(() => ({
        hover: hover.at,
        selection,
        raised,
        marks,
        fillingFrom: picture.fillingFrom
      }));
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
    void [hover.at, selection, raised, marks];
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
    if (far) view.choose(from, to);
  }

  const cell = $derived(hover.at === null ? -1 : cellOfInstant(picture, hover.at));
</script>

<div class="relative min-h-0" style:height={height === null ? '100%' : `${height}px`}>
  <canvas
    bind:this={canvas}
    aria-label={label}
    class="touch-pan-y"
    onpointermove={onMove}
    onpointerleave={onLeave}
    onpointerdown={onDown}
    onpointerup={onUp}
    ondblclick={() => choosesRange && view.stepBack()}
  ></canvas>
  {#if pointer !== null && cell >= 0 && selection === null}
    <Readout {picture} {cell} x={pointer.x} width={pointer.width} />
  {/if}
</div>
