<script lang="ts">
  import { mostDrawnBands } from '$lib/core/alarm';
  import { signalsOf, type TimePanel } from '$lib/core/board';
  import { valuesOf } from '$lib/core/series';
  import { steady } from '$lib/core/signal';
  import { duration, spokenDuration, textFromDuration } from '$lib/core/time';
  import { limitText } from '$lib/core/units';
  import type { Earlier, Limit, Line, RaisedTicks } from '../../../chart/picture';
  import TimeChart from '../../../chart/TimeChart.svelte';
  import LegendTable from '../LegendTable.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';
  import { pictureOf } from '../picture-of';
  import { areasOf } from '../../data/band-data.svelte';
  import { earlierOf } from '../../data/panel-queries';
  import { openOn, useBoardContext } from '../../data/board-context.svelte';

  interface Props {
    panel: TimePanel;
    view: PanelView;
    label: string;
    /** Limits of alarms on the same metric, besides the panel's own. */
    watched: readonly Limit[];
    raised: readonly RaisedTicks[];
  }
  let { panel, view, label, watched, raised }: Props = $props();
  const boardContext = useBoardContext();
  const main = $derived(view.data('main'));
  const drawn = $derived(main.answer && main.range ? pictureOf(main.answer, main.range, panel.signal.digits) : null);
  /** Names of lines on which something is raised, as one text: what is drawn follows them, not all that is told of incidents. */
  const raisedNames = $derived(
    (drawn?.lines ?? [])
      .map(({ name }) => name)
      .filter((name) => openOn(boardContext.things, name).length > 0)
      .join('\n')
  );
  const lines = $derived.by(() => {
    const names = new Set(raisedNames.split('\n'));
    return (drawn?.lines ?? []).map((line) => (names.has(line.name) ? { ...line, isRaised: true } : line));
  });
  const watchedSignal = $derived(
    view.showsBands && main.answer && main.answer.series.length <= mostDrawnBands
      ? steady(
          signalsOf(boardContext.asShown(panel, view))[0] ?? panel.signal,
          textFromDuration(duration(main.answer.step))
        )
      : null
  );
  $effect(() => {
    if (watchedSignal === null) view.bands.clear();
    else if (main.answer && main.range) void view.bands.ask(watchedSignal, main.range, main.answer.step);
  });
  const bands = $derived(
    view.showsBands
      ? areasOf(
          view.bands.answer,
          lines
            .filter(({ id }) => isDrawn(id))
            .map(({ id, hue }) => ({ hue, labels: main.answer?.series.find((one) => one.id === id)?.labels ?? {} }))
        )
      : undefined
  );
  const whole = $derived(
    drawn && { ...drawn, lines, drawing: panel.picture, axis: panel.axis, earlier: earlierThan(drawn.lines), bands }
  );
  const isDrawn = (id: number) => view.alone === null || id === view.alone;
  const picture = $derived.by(() => {
    if (whole === null || view.alone === null || !whole.lines.some(({ id }) => id === view.alone)) return whole;
    const { earlier } = whole;
    const only = (lines: readonly Line[]) => lines.filter(({ id }) => isDrawn(id));
    return { ...whole, lines: only(whole.lines), earlier: earlier && { ...earlier, lines: only(earlier.lines) } };
  });
  const limits = $derived([
    ...(panel.limits ?? []).map(({ value, severity, text }) => ({
      value,
      severity,
      text: text || `${limitText(value, whole?.unit ?? '1')} ${severity}`
    })),
    ...watched
  ]);
  const legend = $derived(panel.legend ?? { rows: 3, order: 'highest' as const });

  /** The same lines as they were earlier, in the hues they have now. */
  function earlierThan(lines: readonly Line[]): Earlier | undefined {
    const shift = earlierOf(panel.earlier, view.earlier === undefined ? boardContext.earlier : view.earlier);
    const { answer } = view.data('earlier');
    if (shift === null || answer === null) return undefined;
    const old = new Map(answer.series.map((series) => [series.id, series]));
    return {
      start: answer.start,
      step: answer.step,
      count: answer.count,
      calendar: answer.calendar,
      shift,
      words: spokenDuration(duration(shift)),
      lines: lines.flatMap((line) => {
        const series = old.get(line.id);
        return series ? [{ ...line, values: valuesOf(series), complete: series.complete }] : [];
      })
    };
  }

  function alone(id: number, asPicker: boolean): void {
    const series = main.answer?.series.find((one) => one.id === id);
    const picker = boardContext.pickers.find(({ label: name }) => (series?.labels[name] ?? '') !== '');
    if (asPicker && picker && series) boardContext.choose(picker, [series.labels[picker.label] as string]);
    else view.alone = view.alone === id ? null : id;
  }
</script>

{#if picture}
  {#if view.showsBands && watchedSignal === null}<p class="text-quiet text-[12px]" role="status">
      No anomaly band: they are drawn for {mostDrawnBands} lines at most.
    </p>{:else if view.showsBands && view.bands.problem}<p class="fault text-[12px]" role="status">
      No anomaly band: {view.bands.problem}
    </p>{:else if view.showsBands && view.bands.answer && bands === undefined}<p
      class="text-quiet text-[12px]"
      role="status"
    >
      No anomaly band: it has less than a day of history.
    </p>{/if}
  <div class="min-h-[40px] flex-1">
    <TimeChart {picture} {limits} {raised} marks={boardContext.marks} height={null} {label} />
  </div>
  {#if legend.rows > 0}
    <div class="max-h-[48%] shrink-0 overflow-y-auto">
      <LegendTable
        lines={whole?.lines ?? []}
        unit={picture.unit}
        fraction={panel.signal.digits}
        rows={legend.rows}
        order={legend.order}
        alone={view.alone}
        onAlone={alone}
        onOpen={(id: number) => boardContext.open(main.answer?.series.find((one) => one.id === id)?.resourceId ?? 0)}
      />
    </div>
  {/if}
{/if}
