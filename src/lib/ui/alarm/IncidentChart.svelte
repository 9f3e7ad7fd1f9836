<script lang="ts">
  import { untrack } from 'svelte';
  import type { AlarmDefinition, Severity } from '$lib/core/alarm';
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
  import { requirePlainPick } from '$lib/core/signal';
  import { quantityText } from '$lib/core/units';
  import { PanelData } from '../board/panel-data.svelte';
  import { pictureOf } from '../board/picture-of';
  import LineChart from '../chart/LineChart.svelte';
  import { useLive } from '../live/live.svelte';

  interface Props {
    incident: { resource: string; account: string; severity: Severity; openedAt: Instant; closedAt: Instant | null };
    alarm: Pick<AlarmDefinition, 'signal' | 'rule'>;
    /** The metric drawn: the alarm's own, or another of the same machine, which has no threshold. */
    metric: { name: string; title: string; unit: string; samplingMs: number };
    /** What to show instead of an hour before it was raised until half an hour after it cleared, or now. */
    range?: ((now: Instant) => Range) | null;
    height?: number;
    /** The newest value, as it becomes known. */
    current?: number | null;
  }
  let { incident, alarm, metric, range = null, height = 190, current = $bindable(null) }: Props = $props();
  const live = useLive();
  const panel = new PanelData();
  const pick = $derived(requirePlainPick(alarm.signal));
  const own = $derived(metric.name === pick.metric);

  function around(now: Instant): Range {
    const end = incident.closedAt === null ? now : Math.min(now, after(incident.closedAt, times(30, minute)));
    return resolveRange(
      fixedRange(before(incident.openedAt, hour), Math.max(end, incident.openedAt + 60_000) as Instant),
      now
    );
  }

  function ask(): void {
    const now = untrack(() => live.now);
    const where = [
      { label: 'resource' as const, is: [incident.resource] },
      { label: 'account' as const, is: [incident.account] }
    ];
    void panel.ask({ ...alarm.signal, rows: [{ ...pick, metric: metric.name, where }] }, (range ?? around)(now), 400);
  }
  $effect(ask);
  $effect(() => live.on(['samples'], ask));
  $effect(() => () => panel.stop());
  $effect(() => {
    current = panel.answer?.series[0]?.values.findLast((value) => value !== null) ?? null;
  });

  const threshold = $derived(alarm.rule.condition.threshold);
  const limits = $derived(
    own
      ? [
          {
            value: threshold,
            severity: incident.severity,
            text: `${quantityText(threshold, metric.unit)} ${incident.severity}`
          }
        ]
      : []
  );
  const raised = $derived([{ from: incident.openedAt, to: incident.closedAt, severity: incident.severity }]);
</script>

{#if panel.problem}<p class="fault text-[13px]" role="alert">{panel.problem}</p>{/if}
{#if panel.answer && panel.range}
  <LineChart
    picture={pictureOf(panel.answer, panel.range, metric.samplingMs)}
    {limits}
    {raised}
    {height}
    label="{metric.title} of {incident.resource}"
  />
{:else}<div style:height="{height}px"></div>{/if}
