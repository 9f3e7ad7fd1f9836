<script lang="ts">
  import { untrack } from 'svelte';
  import { drawnLimits, type AlarmDefinition, type Severity } from '$lib/core/alarm';
  import {
    after,
    before,
    fixedRange,
    hour,
    minute,
    resolveRange,
    times,
    type Instant,
    type Range
  } from '$lib/core/time';
  import { completeValues } from '$lib/core/board';
  import type { QueryAnswer } from '$lib/core/series';
  import { labelKey, plainPick, plainSignal, usualStatistic, type Signal } from '$lib/core/signal';
  import { limitText } from '$lib/core/units';
  import { PanelData } from '../board/data/panel-data.svelte';
  import { pictureOf } from '../board/panel/picture-of';
  import TimeChart from '../chart/TimeChart.svelte';
  import { useLive } from '../live/live.svelte';

  interface Props {
    incident: {
      key: string;
      seriesId: number | null;
      subject: string;
      resource: string;
      account: string;
      /** Null of what was not raised. */
      severity: Severity | null;
      openedAt: Instant;
      closedAt: Instant | null;
    };
    alarm: { signal: Signal; rule: AlarmDefinition['rule'] };
    /** What is drawn, for its words and unit. */
    watched: { title: string; unit: string };
    /** Another metric of the same resource, drawn without the threshold; what the alarm watches by default. */
    other?: { name: string; kind: string } | null;
    /** What to show instead of an hour before it was raised until half an hour after it cleared, or now. */
    range?: ((now: Instant) => Range) | null;
    height?: number;
    /** The newest value, as it becomes known. */
    current?: number | null;
  }
  let {
    incident,
    alarm,
    watched,
    other = null,
    range = null,
    height = 190,
    current = $bindable(null)
  }: Props = $props();
  const live = useLive();
  const panel = new PanelData();

  function around(now: Instant): Range {
    const end = incident.closedAt === null ? now : Math.min(now, after(incident.closedAt, times(30, minute)));
    return resolveRange(
      fixedRange(before(incident.openedAt, hour), Math.max(end, incident.openedAt + 60_000) as Instant),
      now
    );
  }

  function ask(): void {
    const now = untrack(() => live.now);
    void panel.ask(other === null ? own() : ofResource(other), (range ?? around)(now), 400);
  }

  const here = () => [
    { label: 'resource', is: [incident.resource] },
    { label: 'account', is: [incident.account] }
  ];
  const ofResource = ({ name, kind }: { name: string; kind: string }): Signal =>
    plainSignal({ metric: name, statistic: usualStatistic(kind), where: here(), step: alarm.signal.step });

  /** The alarm's signal; that of a single metric is requested for this resource alone. */
  function own(): Signal {
    const pick = plainPick(alarm.signal);
    return pick && incident.resource !== '' ? { ...alarm.signal, rows: [{ ...pick, where: here() }] } : alarm.signal;
  }
  $effect(ask);
  $effect(() => live.on(['samples'], ask));
  $effect(() => () => panel.stop());
  $effect(() => {
    const series = answer?.series[0];
    current = series ? (completeValues(series).findLast((value) => !Number.isNaN(value)) ?? null) : null;
  });

  /** What was answered, of the incident's own series alone. */
  const answer = $derived.by((): QueryAnswer | null => {
    if (panel.answer === null || other !== null) return panel.answer;
    const isOwn = ({ id, labels }: QueryAnswer['series'][number]) =>
      incident.seriesId === null ? labelKey(labels) === incident.key : id === incident.seriesId;
    return { ...panel.answer, series: panel.answer.series.filter(isOwn) };
  });
  /** A small chart has room for the limit that counts alone. */
  const limitsShown = $derived(
    drawnLimits(alarm.rule).filter(({ severity }) => height >= 150 || severity === incident.severity)
  );
  const limits = $derived(
    other === null
      ? limitsShown.map(({ value, severity }) => ({
          value,
          severity,
          text: `${limitText(value, watched.unit)} ${severity}`
        }))
      : []
  );
  const raised = $derived(
    incident.severity === null ? [] : [{ from: incident.openedAt, to: incident.closedAt, severity: incident.severity }]
  );
</script>

{#if panel.problem}<p class="fault text-[13px]" role="alert">{panel.problem}</p>{/if}
{#if answer && panel.range}
  <TimeChart
    picture={pictureOf(answer, panel.range, other === null ? alarm.signal.digits : undefined)}
    {limits}
    {raised}
    {height}
    label="{watched.title} of {incident.subject}"
  />
{:else}<div style:height="{height}px"></div>{/if}
