<script lang="ts">
  import type { Panel } from '$lib/core/board';
  import { valuesOf } from '$lib/core/series';
  import { plainPick, type Signal } from '$lib/core/signal';
  import type { Range } from '$lib/core/time';
  import { useBoardContext } from '../data/board-context.svelte';
  import type { PanelView } from '../data/panel-view.svelte';
  import AlarmsBody from './bodies/AlarmsBody.svelte';
  import GaugeBody from './bodies/GaugeBody.svelte';
  import HeatBody from './bodies/HeatBody.svelte';
  import IncidentsBody from './bodies/IncidentsBody.svelte';
  import MarksBody from './bodies/MarksBody.svelte';
  import NumberBody from './bodies/NumberBody.svelte';
  import RanksBody from './bodies/RanksBody.svelte';
  import ResourcesBody from './bodies/ResourcesBody.svelte';
  import SilentBody from './bodies/SilentBody.svelte';
  import SnapshotBody from './bodies/SnapshotBody.svelte';
  import StatusBody from './bodies/StatusBody.svelte';
  import TableBody from './bodies/TableBody.svelte';
  import TextBody from './bodies/TextBody.svelte';
  import TimeBody from './bodies/TimeBody.svelte';
  import EmptyPanel from './EmptyPanel.svelte';
  import { raisedWithin, thresholdsOn } from './watched';

  interface Props {
    panel: Panel;
    view: PanelView;
    /** The span it shows. */
    range: Range;
    /** Its first signal as it is shown now; none for a panel without signals. */
    signal: Signal | undefined;
    /** Why there are no numbers; null when there are. */
    problem: string | null;
    /** What its picture is of, for those who do not see it. */
    label: string;
  }
  let { panel, view, range, signal, problem, label }: Props = $props();
  const boardContext = useBoardContext();
  const firstName = $derived(panel.picture === 'snapshot' ? 'column 0' : 'main');
  const first = $derived(signal ? view.data(firstName) : null);
  /** Without a series, or without a value of any; a list has rows of what other columns know. */
  const isEmpty = $derived(
    first !== null &&
      first.answer !== null &&
      (panel.picture === 'snapshot'
        ? first.answer.series.length === 0
        : first.answer.series.every((series) => valuesOf(series).every(Number.isNaN)))
  );
  const isReading = $derived(first !== null && first.answer === null && !problem);
  const metric = $derived(signal ? plainPick(signal)?.metric : undefined);
</script>

{#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
{#if isReading}
  <p class="text-quiet grid flex-1 place-items-center text-[13px]">Reading…</p>
{:else if isEmpty && signal}
  <EmptyPanel answer={first?.answer ?? null} {panel} />
{:else if problem && first?.answer === null}
  <span></span>
{:else if view.asTable && signal}
  <TableBody panel={{ signal, names: {} }} {view} name={firstName} />
{:else if panel.picture === 'lines' || panel.picture === 'areas' || panel.picture === 'stacked' || panel.picture === 'bars'}
  <TimeBody
    {panel}
    {view}
    watched={thresholdsOn(boardContext, metric)}
    raised={raisedWithin(boardContext, metric, range)}
    {label}
  />
{:else if panel.picture === 'ranks'}<RanksBody {panel} {view} />
{:else if panel.picture === 'ring'}
  {#await import('./bodies/RingBody.svelte') then { default: RingBody }}
    <RingBody {panel} {view} {label} />
  {/await}
{:else if panel.picture === 'number'}<NumberBody {panel} {view} />
{:else if panel.picture === 'gauge'}<GaugeBody {panel} {view} />
{:else if panel.picture === 'snapshot'}<SnapshotBody {panel} {view} />
{:else if panel.picture === 'table'}<TableBody {panel} {view} />
{:else if panel.picture === 'heat'}<HeatBody {panel} {view} {label} />
{:else if panel.picture === 'histogram'}
  {#await import('./bodies/HistogramBody.svelte') then { default: HistogramBody }}
    <HistogramBody {panel} {view} {label} />
  {/await}
{:else if panel.picture === 'text'}<TextBody text={panel.text} />
{:else if panel.picture === 'status'}<StatusBody {panel} />
{:else if panel.picture === 'alarms'}<AlarmsBody {panel} />
{:else if panel.picture === 'incidents'}<IncidentsBody {panel} {range} />
{:else if panel.picture === 'silent'}<SilentBody {panel} />
{:else if panel.picture === 'resources'}<ResourcesBody {panel} />
{:else if panel.picture === 'marks'}<MarksBody />
{:else if panel.picture === 'promises'}
  {#await import('./bodies/PromisesBody.svelte') then { default: PromisesBody }}
    <PromisesBody {panel} />
  {/await}
{:else if panel.picture === 'log'}
  {#await import('./bodies/LogBody.svelte') then { default: LogBody }}
    <LogBody {panel} {range} />
  {/await}
{/if}
