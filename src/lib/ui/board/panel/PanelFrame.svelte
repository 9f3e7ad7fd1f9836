<script lang="ts">
  import type { Panel } from '$lib/core/board';
  import { followedBy, signalsOf } from '$lib/core/board';
  import { hasGaps, valuesOf, waitedFor } from '$lib/core/series';
  import { fixedStepOf, plainPick, signalSentence } from '$lib/core/signal';
  import { duration, fixedRange, overlap, saysRange, spokenDuration, type Instant, type Range } from '$lib/core/time';
  import { limitText } from '$lib/core/units';
  import { page } from '$app/state';
  import { provideTimeView, zoomBack, zoomTo } from '../../time/view.svelte';
  import { spokenRange } from './opening-ranges';
  import Maximize from '@lucide/svelte/icons/maximize-2';
  import Minimize from '@lucide/svelte/icons/minimize-2';
  import AlarmsBody from './bodies/AlarmsBody.svelte';
  import GaugeBody from './bodies/GaugeBody.svelte';
  import HeatBody from './bodies/HeatBody.svelte';
  import IncidentsBody from './bodies/IncidentsBody.svelte';
  import MarksBody from './bodies/MarksBody.svelte';
  import NumberBody from './bodies/NumberBody.svelte';
  import RanksBody from './bodies/RanksBody.svelte';
  import SilentBody from './bodies/SilentBody.svelte';
  import SnapshotBody from './bodies/SnapshotBody.svelte';
  import StatusBody from './bodies/StatusBody.svelte';
  import TableBody from './bodies/TableBody.svelte';
  import TextBody from './bodies/TextBody.svelte';
  import TimeBody from './bodies/TimeBody.svelte';
  import EmptyPanel from './EmptyPanel.svelte';
  import PanelMenu from './PanelMenu.svelte';
  import type { PanelView } from '../data/panel-view.svelte';
  import { earlierOf } from '../data/panel-queries';
  import { labelsOf, metricOf, useBoardContext } from '../data/board-context.svelte';

  interface Props {
    panel: Panel;
    view: PanelView;
    /** The span it shows. */
    range: Range;
    isLarge: boolean;
    onLarge: () => void;
  }
  let { panel, view, range, isLarge, onLarge }: Props = $props();
  const boardContext = useBoardContext();
  let section: HTMLElement;

  provideTimeView({
    get zone() {
      return boardContext.zone;
    },
    choose: (from, to) => {
      if (view.unlinked || !boardContext.linked) view.choose(fixedRange(from, to));
      else zoomTo(from, to);
    },
    stepBack: () => {
      if (view.unlinked) view.stepBack();
      else zoomBack();
    }
  });

  /** Its signals as they are shown now. */
  const signals = $derived(signalsOf(boardContext.asShown(panel, view)));
  const wordsOf = (metric: string) => metricOf(boardContext.metrics, metric);
  const firstName = $derived(panel.picture === 'snapshot' ? 'column 0' : 'main');
  const first = $derived(signals.length > 0 ? view.data(firstName) : null);
  const sentence = $derived(signals[0] && panel.picture !== 'snapshot' ? signalSentence(signals[0], wordsOf) : '');
  const problem = $derived(
    signals
      .map((_, index) => view.data(panel.picture === 'snapshot' ? `column ${index}` : 'main').problem)
      .find(Boolean)
  );
  /** Without a series, or without a value of any; a list has rows of what other columns know. */
  const isEmpty = $derived(
    first !== null &&
      first.answer !== null &&
      (panel.picture === 'snapshot'
        ? first.answer.series.length === 0
        : first.answer.series.every((series) => valuesOf(series).every(Number.isNaN)))
  );
  const isReading = $derived(first !== null && first.answer === null && !problem);
  /** What the picture would otherwise hide. */
  const notes = $derived.by(() => {
    const answer = first?.answer;
    if (!answer || !signals[0]) return [];
    const told: string[] = [];
    const waited = waitedFor(answer);
    if (waited) told.push(`newest: ${waited.missing} of ${waited.of} series not there yet`);
    const isOverTime = ['lines', 'areas', 'stacked', 'bars'].includes(panel.picture);
    const hasCells = isOverTime || panel.picture === 'heat' || panel.picture === 'table';
    if (hasCells && answer.step > (fixedStepOf(signals[0]) ?? 60_000))
      told.push(`a point each ${spokenDuration(duration(answer.step))}`);
    if (hasCells) {
      const gaps = answer.series.filter((series) => hasGaps(series, series.complete - 1)).length;
      if (gaps > 0) told.push(`${gaps} of ${answer.series.length} have gaps`);
    }
    const own = 'earlier' in panel ? panel.earlier : undefined;
    const shift =
      panel.picture === 'number' || isOverTime
        ? earlierOf(own, view.earlier === undefined ? boardContext.earlier : view.earlier)
        : null;
    if (shift !== null && panel.picture !== 'number') told.push(`dotted: ${spokenDuration(shift)} earlier`);
    if (view.unlinked) told.push('unlinked');
    else if (panel.range !== undefined && !saysRange(page.url.searchParams)) told.push(spokenRange(panel.range));
    return told;
  });
  const followed = $derived(
    boardContext.pickers.filter((picker) =>
      signalsOf(panel).some(
        (signal) =>
          followedBy(signal, [picker], panel.ignores ?? [], (metric) => labelsOf(boardContext.metrics, metric)).length >
          0
      )
    )
  );
  /** Pickers that choose something which this panel does not show. */
  const unfollowed = $derived(
    boardContext.pickers.filter(
      (picker) =>
        signals.length > 0 && (boardContext.choices[picker.name] ?? []).length > 0 && !followed.includes(picker)
    )
  );
  const told = $derived(
    followed.length === 0 ? sentence : `${sentence}. It follows ${followed.map(({ title }) => title).join(', ')}.`
  );
  const metric = $derived(signals[0] ? plainPick(signals[0])?.metric : undefined);
  const alarms = $derived(
    metric === undefined ? [] : boardContext.things.alarms.filter((alarm) => alarm.metric === metric)
  );
  const watched = $derived(
    alarms.map(({ threshold, severity }) => ({
      value: threshold,
      severity,
      text: `${limitText(threshold, metricOf(boardContext.metrics, metric ?? '')?.unit ?? '1')} ${severity}`
    }))
  );
  const raised = $derived.by(() => {
    const ids = new Set(alarms.map(({ id }) => id));
    return boardContext.things.incidents
      .filter(
        ({ alarmId, openedAt, closedAt }) =>
          alarmId !== null &&
          ids.has(alarmId) &&
          overlap(range, { from: openedAt, to: (closedAt ?? Math.max(range.to, openedAt + 1)) as Instant }) !== null
      )
      .map(({ openedAt, closedAt, severity }) => ({ from: openedAt, to: closedAt, severity }));
  });
</script>

<section class="panel h-full min-h-0" aria-label={panel.title} bind:this={section}>
  <header class={boardContext.editing ? 'panel-handle cursor-move' : ''}>
    <h2 class="max-w-[70%] shrink-0 truncate" title={panel.title}>{panel.title}</h2>
    <small class="shrink-[6]" title={told}>{sentence}</small>
    <span class="text-quiet ml-auto flex min-w-[44px] items-center gap-2 self-center text-[12px]">
      <span class="min-w-0 truncate" title={notes.join(', ')}>{notes.join(', ')}</span>
      {#if unfollowed.length > 0}
        <span title="It does not follow {unfollowed.map(({ title }) => title).join(', ')}"
          >not by {unfollowed.map(({ title }) => title.toLowerCase()).join(', ')}</span
        >
      {/if}
      {#if !boardContext.editing && boardContext.who !== 'wall'}
        <button aria-label={isLarge ? `Make ${panel.title} small again` : `Maximise ${panel.title}`} onclick={onLarge}>
          {#if isLarge}<Minimize size={13} />{:else}<Maximize size={13} />{/if}
        </button>
        <PanelMenu {panel} {view} {range} node={() => section} />
      {/if}
    </span>
  </header>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  {#if isReading}
    <p class="text-quiet grid flex-1 place-items-center text-[13px]">Reading…</p>
  {:else if isEmpty && signals[0]}
    <EmptyPanel answer={first?.answer ?? null} {panel} />
  {:else if problem && first?.answer === null}
    <span></span>
  {:else if view.asTable && signals[0]}
    <TableBody panel={{ signal: signals[0], names: {} }} {view} name={firstName} />
  {:else if panel.picture === 'lines' || panel.picture === 'areas' || panel.picture === 'stacked' || panel.picture === 'bars'}
    <TimeBody {panel} {view} {watched} {raised} label="{panel.title}: {sentence}" />
  {:else if panel.picture === 'ranks'}<RanksBody {panel} {view} />
  {:else if panel.picture === 'ring'}
    {#await import('./bodies/RingBody.svelte') then { default: RingBody }}
      <RingBody {panel} {view} label="{panel.title}: {sentence}" />
    {/await}
  {:else if panel.picture === 'number'}<NumberBody {panel} {view} />
  {:else if panel.picture === 'gauge'}<GaugeBody {panel} {view} />
  {:else if panel.picture === 'snapshot'}<SnapshotBody {panel} {view} />
  {:else if panel.picture === 'table'}<TableBody {panel} {view} />
  {:else if panel.picture === 'heat'}<HeatBody {view} label="{panel.title}: {sentence}" />
  {:else if panel.picture === 'histogram'}
    {#await import('./bodies/HistogramBody.svelte') then { default: HistogramBody }}
      <HistogramBody {panel} {view} label="{panel.title}: {sentence}" />
    {/await}
  {:else if panel.picture === 'text'}<TextBody text={panel.text} />
  {:else if panel.picture === 'status'}<StatusBody {panel} />
  {:else if panel.picture === 'alarms'}<AlarmsBody {panel} />
  {:else if panel.picture === 'incidents'}<IncidentsBody {panel} {range} />
  {:else if panel.picture === 'silent'}<SilentBody {panel} />
  {:else if panel.picture === 'marks'}<MarksBody />
  {/if}
</section>
