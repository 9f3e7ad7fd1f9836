<script lang="ts">
  import { untrack } from 'svelte';
  import { page } from '$app/state';
  import { after, before, duration, fixedRange, hour, minute, peopleDuration, resolveRange, times, type Instant } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import EvidenceTable from '$lib/ui/alarm/EvidenceTable.svelte';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { PanelData } from '$lib/ui/board/panel-data.svelte';
  import { pictureOf } from '$lib/ui/board/picture-of';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import LineChart from '$lib/ui/chart/LineChart.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { shownRange } from '$lib/ui/time/shown';

  let { data } = $props();
  const live = useLive();
  provideHover();
  const incident = $derived(data.incident);
  const threshold = $derived(data.alarm.rule.condition.threshold);
  const lasted = $derived(peopleDuration(duration(Math.max(0, (incident.closedAt ?? live.now) - incident.openedAt))));
  const panel = new PanelData();
  const others = new PanelData();
  const otherMetric = $derived(incident.metric === 'machine.memory.use' ? 'machine.processor.use' : 'machine.memory.use');

  /** What the address says; else an hour before it was raised until half an hour after it cleared, or now. */
  function span(now: Instant) {
    const says = page.url.searchParams.has('range') || page.url.searchParams.has('from');
    if (says) return resolveRange(shownRange(), now);
    const end = incident.closedAt === null ? now : (Math.min(now, after(incident.closedAt, times(30, minute))) as Instant);
    return resolveRange(fixedRange(before(incident.openedAt, hour), Math.max(end, incident.openedAt + 60_000) as Instant), now);
  }

  function ask(): void {
    const range = span(untrack(() => live.now));
    const ofThis = [{ label: 'resource' as const, is: [incident.resource] }, { label: 'account' as const, is: [incident.account] }];
    void panel.ask({ ...data.alarm.signal, where: ofThis }, range, 400);
    void others.ask({ ...data.alarm.signal, metric: otherMetric, where: ofThis }, range, 400);
  }
  $effect(ask);
  $effect(() => live.on(['samples', 'reconnected'], ask));
  $effect(() => () => [panel, others].forEach((one) => one.stop()));

  const limits = $derived([{ value: threshold, severity: incident.severity, text: `${quantityText(threshold, data.metric.unit)} ${incident.severity}` }]);
  const raised = $derived([{ from: incident.openedAt, to: incident.closedAt, severity: incident.severity }]);
  const current = $derived(panel.answer?.series[0]?.values.findLast((value) => value !== null) ?? null);
</script>

<svelte:head><title>{incident.alarm}, {incident.resource} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-4 max-md:overflow-visible">
  <div class="flex items-start gap-3">
    <span class="pt-1.5"><SeverityHoist severity={incident.closedAt === null ? incident.severity : null} /></span>
    <div>
      <h1 class="text-[24px]! leading-[30px]!">
        <span class="decoration-3 underline underline-offset-4" style:text-decoration-color="var(--{incident.closedAt === null ? incident.severity : 'ok'})">{incident.resource}</span>
        {incident.closedAt === null ? `is raised: ${incident.alarm.toLowerCase()}` : `is clear again: ${incident.alarm.toLowerCase()}`}
      </h1>
      <p class="text-quiet mt-1" data-testid="told">
        {incident.severity}, since <Moment at={incident.openedAt} now={live.now} />,
        {#if incident.closedAt !== null}until <Moment at={incident.closedAt} now={live.now} />,{/if}
        {lasted}. In {incident.account}, {incident.region}.
      </p>
    </div>
    <dl class="num ml-auto flex shrink-0 gap-6 text-right max-md:hidden">
      <div><dt class="text-quiet font-sans text-[12px]">now</dt><dd class="text-[20px] font-bold">{quantityText(current ?? NaN, data.metric.unit)}</dd></div>
      <div><dt class="text-quiet font-sans text-[12px]">peak</dt><dd class="text-[20px] font-bold">{quantityText(incident.peak ?? NaN, data.metric.unit)}</dd></div>
      <div><dt class="text-quiet font-sans text-[12px]">limit</dt><dd class="text-[20px]">{quantityText(threshold, data.metric.unit)}</dd></div>
    </dl>
  </div>

  <div class="mt-4 grid grid-cols-12 gap-2.5 max-lg:grid-cols-1">
    <section class="panel col-span-8 max-lg:col-span-1" aria-label={data.metric.title}>
      <header><h2>{data.metric.title}</h2><small>{data.sentence}</small></header>
      {#if panel.problem}<p class="fault text-[13px]">{panel.problem}</p>{/if}
      {#if panel.answer && panel.range}
        <LineChart picture={pictureOf(panel.answer, panel.range, data.metric.unit, data.metric.samplingMs)} {limits} {raised} height={190} label="{data.metric.title} of {incident.resource}" />
      {:else}<div class="h-[190px]"></div>{/if}
    </section>
    <section class="panel col-span-4 max-lg:col-span-1" aria-label="Who was told">
      <header><h2>Who was told</h2></header>
      {#each data.messages as { id, kind, channel, address, state, lastError, sentAt, createdAt } (id)}
        <div class="border-line border-b py-1.5 text-[13px] last:border-0">
          <b>{channel}</b> <span class="text-quiet num">{address}</span><br />
          <span class={state === 'failed' ? 'fault' : 'text-quiet'}>{kind}, {state === 'sent' ? 'sent' : state === 'failed' ? `failed: ${lastError}` : 'queued'} <Moment at={sentAt ?? createdAt} now={live.now} /></span>
        </div>
      {:else}<p class="text-quiet text-[13px]">Nobody: the alarm has no confirmed channel. <a class="link" href="/alarms/{incident.alarmId}">Choose one</a></p>{/each}
      <p class="mt-2"><a class="btn" href="/alarms/{incident.alarmId}">Open the alarm</a></p>
    </section>
    <section class="panel col-span-8 max-lg:col-span-1" aria-label="Why">
      <header><h2>Why</h2><small>the numbers each change was decided on</small></header>
      {#each data.changes as change (`${change.at}${change.to}`)}<EvidenceTable {change} unit={data.metric.unit} now={live.now} />{/each}
    </section>
    <section class="panel col-span-4 max-lg:col-span-1" aria-label="The same machine">
      <header><h2>{otherMetric === 'machine.memory.use' ? 'Memory use' : 'Processor use'}</h2><small>of the same machine</small></header>
      {#if others.answer && others.range}
        <LineChart picture={pictureOf(others.answer, others.range, '%', data.metric.samplingMs)} {raised} height={120} label="Another metric of {incident.resource}" />
      {:else}<div class="h-[120px]"></div>{/if}
    </section>
  </div>
</main>
