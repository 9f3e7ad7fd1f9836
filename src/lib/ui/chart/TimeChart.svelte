<script lang="ts">
  import equal from 'fast-deep-equal';
  import { untrack } from 'svelte';
  import { type Instant } from '$lib/core/time';
  import { useReader } from '../time/reader';
  import { useTimeView } from '../time/view.svelte';
  import { useHover } from './hover.svelte';
  import { overlayPlugin, type Overlay } from './overlay';
  import { limitDrag, type LimitDrag } from './limit-drag';
  import { drawnDivisor, overTimeConfiguration, type TimeChartType } from './over-time';
  import { cellOfInstant, type Limit, type MarkFlag, type Picture, type RaisedTicks } from './picture';
  import Readout from './Readout.svelte';
  import { Chart } from './registered';
  import { themeColour, useTheme } from './theme.svelte';

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
    /** Hears to where a limit is dragged, in the unit of the picture, and whether it was let go; without it, limits stay. */
    onLimit?: ((index: number, value: number, isDone: boolean) => void) | undefined;
  }
  let {
    picture,
    label,
    limits = [],
    raised = [],
    marks = [],
    height = 150,
    choosesRange = true,
    onLimit
  }: Props = $props();
  const reader = useReader();
  const view = useTimeView();
  const zone = $derived(view.zone ?? reader.zone);
  const hover = useHover();
  const theme = useTheme();
  let canvas: HTMLCanvasElement;
  let hairline: HTMLElement;
  let chosen: HTMLElement;
  let chart: Chart<TimeChartType, { x: number; y: number }[]> | null = null;
  let drawnAs: TimeChartType = 'course';
  /** What the newest drawing has over its lines. */
  let drawnOver: Overlay = { raised: [], marks: [] };
  let selection = $state<{ from: number; to: number } | null>(null);
  /** Where the pointer is on this chart, in pixels; null when it is elsewhere. */
  let pointer = $state<{ x: number; width: number } | null>(null);

  $effect(() => {
    void theme.night; // painted with the colours of the theme
    // A chart knows its width; asking the canvas again would lay the page out for each of them.
    const columns = Math.round((chart?.width ?? canvas.clientWidth) * devicePixelRatio);
    const configuration = overTimeConfiguration(picture, limits, zone, columns, themeColour);
    const type = 'type' in configuration ? configuration.type : 'course';
    if (chart !== null && drawnAs !== type) {
      chart.destroy();
      chart = null;
    }
    drawnAs = type;
    drawnOver = untrack(() => ({ raised, marks }));
    if (chart === null) {
      // Untracked, or every drawing would make this effect follow them.
      const overlay = overlayPlugin<TimeChartType>(() => untrack(() => ({ raised, marks })));
      chart = new Chart(canvas, { ...configuration, plugins: [overlay] });
    } else {
      chart.config.data = configuration.data;
      chart.config.options = configuration.options!;
      chart.update('none');
    }
    untrack(layHairline); // the same moment, elsewhere
  });
  $effect(() => () => {
    chart?.destroy();
    chart = null;
  });
  $effect(() => {
    // They are made anew with every second; only others are drawn.
    if (equal(drawnOver, { raised, marks })) return;
    drawnOver = { raised, marks };
    untrack(() => chart?.draw());
  });
  // What follows the pointer lies over the canvas: drawing all charts anew for each of its moves would take longer than a frame.
  $effect(layHairline);
  $effect(() => {
    const { from, to } = selection ?? { from: -1, to: -1 };
    lay(chosen, Math.min(from, to), Math.max(from, to));
  });

  function layHairline(): void {
    const { x } = chart?.scales ?? {};
    const at = hover.at === null || !x ? -1 : x.getPixelForValue(hover.at);
    lay(hairline, at, at + 1);
  }

  /** Lays something over the chart from one pixel to another, as far as they are on it; away when they are not. */
  function lay(what: HTMLElement, from: number, to: number): void {
    const area = chart?.chartArea;
    what.hidden = !area || to < area.left || from > area.right;
    if (!area || what.hidden) return;
    const left = Math.max(area.left, from);
    what.style.transform = `translate(${Math.round(left)}px, ${area.top}px)`;
    what.style.width = `${Math.max(1, Math.min(to, area.right) - left)}px`;
    what.style.height = `${area.bottom - area.top}px`;
  }

  function instantUnder(x: number): Instant {
    return Math.round(chart?.scales['x']?.getValueForPixel(x) ?? 0) as Instant;
  }

  /** The limit that is dragged, and the one under the pointer. */
  let dragged = $state.raw<(LimitDrag & { readonly value: number }) | null>(null);
  let isOverLimit = $state(false);

  function limitUnder(y: number): LimitDrag | null {
    const scale = chart?.scales['y'];
    return onLimit && scale ? limitDrag(scale, limits, drawnDivisor(picture, limits), y) : null;
  }

  function onMove(event: PointerEvent): void {
    if (dragged !== null) {
      dragged = { ...dragged, value: dragged.valueAt(event.offsetY) };
      onLimit?.(dragged.index, dragged.value, false);
      return;
    }
    isOverLimit = limitUnder(event.offsetY) !== null;
    hover.at = instantUnder(event.offsetX);
    pointer = { x: event.offsetX, width: canvas.clientWidth };
    if (selection !== null) selection = { ...selection, to: event.offsetX };
  }

  function onLeave(): void {
    hover.at = pointer = null;
  }

  function onDown(event: PointerEvent): void {
    const under = event.button === 0 ? limitUnder(event.offsetY) : null;
    const value = under && limits[under.index]?.value;
    if (under !== null && typeof value === 'number') {
      dragged = { ...under, value };
      canvas.setPointerCapture(event.pointerId);
      hover.at = pointer = null;
      return;
    }
    if (!choosesRange || event.button !== 0) return;
    selection = { from: event.offsetX, to: event.offsetX };
    canvas.setPointerCapture(event.pointerId);
  }

  /** The limit stays where it was dragged to last: one that is only touched does not move. */
  function letGo(): boolean {
    if (dragged === null) return false;
    onLimit?.(dragged.index, dragged.value, true);
    dragged = null;
    return true;
  }

  function onCancel(): void {
    letGo();
    selection = null;
  }

  function onUp(): void {
    if (letGo()) return;
    if (selection === null) return;
    const [from, to] = [selection.from, selection.to].sort((a, b) => a - b).map(instantUnder) as [Instant, Instant];
    const far = Math.abs(selection.to - selection.from) > 5 && to - from >= 60_000;
    selection = null;
    if (far) view.choose(from, to);
  }

  const cell = $derived(hover.at === null ? -1 : cellOfInstant(picture, hover.at));
</script>

<div class="relative min-h-0" style:height={height === null ? '100%' : `${height}px`}>
  <!-- Of a size that nothing within changes: a chart that is drawn lays out nothing around it. -->
  <div class="absolute inset-0 contain-strict">
    <canvas
      bind:this={canvas}
      aria-label={label}
      class={['touch-pan-y', (isOverLimit || dragged !== null) && 'cursor-ns-resize']}
      onpointermove={onMove}
      onpointerleave={onLeave}
      onpointerdown={onDown}
      onpointerup={onUp}
      onpointercancel={onCancel}
      ondblclick={() => choosesRange && view.stepBack()}
    ></canvas>
    <span bind:this={hairline} class="bg-quiet pointer-events-none absolute top-0 left-0" hidden></span>
    <span bind:this={chosen} class="bg-note/16 pointer-events-none absolute top-0 left-0" hidden></span>
  </div>
  {#if pointer !== null && cell >= 0 && selection === null}
    <Readout {picture} {cell} x={pointer.x} width={pointer.width} />
  {/if}
</div>
