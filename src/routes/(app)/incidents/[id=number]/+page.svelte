<script lang="ts">
  import { page } from '$app/state';
  import {
    after,
    before,
    duration,
    durationFromText,
    minute,
    peopleDuration,
    resolveRange,
    textFromInstant,
    times,
    type Instant
  } from '$lib/core/time';
  import { limitText, quantityText } from '$lib/core/units';
  import { linesOf, searchBehind } from '$lib/core/signal';
  import { outcomeText } from '$lib/core/incident';
  import { comparedText } from '$lib/core/alarm';
  import Acknowledgement from '$lib/ui/alarm/Acknowledgement.svelte';
  import AlarmAdvice from '$lib/ui/alarm/AlarmAdvice.svelte';
  import EvidenceTable from '$lib/ui/alarm/EvidenceTable.svelte';
  import IncidentChart from '$lib/ui/alarm/IncidentChart.svelte';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import EventsBehind from '$lib/ui/events/EventsBehind.svelte';
  import IncidentActions from '$lib/ui/incident/IncidentActions.svelte';
  import UnusualThen from '$lib/ui/incident/UnusualThen.svelte';
  import Timeline from '$lib/ui/incident/Timeline.svelte';
  import ActOn from '$lib/ui/response/ActOn.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { shownRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  provideHover();
  useRefresh(live, ['responses'], 'bussola:overview');
  let current = $state<number | null>(null);
  const incident = $derived(data.incident);
  const open = $derived(incident.closedAt === null);
  const place = $derived([incident.account, incident.region].filter((part) => part !== '').join(', '));
  const lasted = $derived(peopleDuration(duration(Math.max(0, (incident.closedAt ?? live.now) - incident.openedAt))));
  /** A range in the address goes before the incident's own. */
  const says = $derived(page.url.searchParams.has('range') || page.url.searchParams.has('from'));
  const range = $derived(says ? (now: Instant) => resolveRange(shownRange(), now) : null);
  const condition = $derived(data.level?.condition ?? null);
  /** The bound that was crossed when it was raised. */
  const bound = $derived.by(() => {
    const { high = [], low = [] } = data.changes.find(({ to }) => to === 'raised')?.evidence ?? {};
    return high.at(-1) ?? low.at(-1) ?? NaN;
  });
  /** A page at the time of the incident, so that it shows what was so then. */
  function inRange(path: string): string {
    if (open) return path;
    const from = before(incident.openedAt, times(60, minute));
    return `${path}?${new URLSearchParams({ from: textFromInstant(from), to: textFromInstant(incident.closedAt ?? live.now) })}`;
  }
  /** The page of the logs at what was counted, from a while before it was raised. */
  function linesHref(search: string): string {
    const from = before(incident.openedAt, times(15, minute));
    const to = after(incident.closedAt ?? live.now, times(5, minute));
    return `/logs?${new URLSearchParams({ q: search, from: textFromInstant(from), to: textFromInstant(to) })}`;
  }
  /** Of what events raised, there are no numbers. */
  const figures = $derived(
    data.rule !== null
      ? []
      : [
          { name: 'now', text: quantityText(current ?? NaN, data.unit) },
          {
            name: 'peak',
            text: condition
              ? comparedText(condition, incident.peak ?? NaN, data.unit)
              : quantityText(incident.peak ?? NaN, data.unit)
          },
          {
            name: 'limit',
            text:
              condition?.kind === 'absence'
                ? peopleDuration(durationFromText(condition.for))
                : limitText(bound, data.unit)
          }
        ]
  );
</script>

<svelte:head><title>{incident.alarm}, {incident.subject} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-4 max-md:overflow-visible">
  <div class="flex flex-wrap items-start gap-3 max-md:gap-x-2 max-md:gap-y-1">
    <span class="pt-1.5"><SeverityHoist severity={open ? incident.severity : null} /></span>
    <div class="min-w-0 flex-1 max-md:basis-[calc(100%-44px)]">
      <h1 class="text-[24px]! leading-[30px]! max-md:text-[18px]! max-md:leading-[23px]!">
        <span
          class="decoration-3 underline underline-offset-4"
          style:text-decoration-color="var(--{open ? incident.severity : 'ok'})">{incident.subject}</span
        >
        {open ? 'is raised' : incident.clearAt === null ? 'was closed' : 'is clear again'}: {incident.alarm.toLowerCase()}
      </h1>
      <p class="text-quiet mt-1" data-testid="told">
        {incident.severity}, since <Moment at={incident.openedAt} now={live.now} />{#if incident.closedAt !== null},
          until <Moment at={incident.closedAt} now={live.now} />{/if},
        {lasted}.{place === '' ? '' : ` In ${place}.`}
        {#if data.clusterHref !== null}<a class="link" href={inRange(data.clusterHref)}>See it in its cluster</a>{/if}
      </p>
      {#if data.darkAccount !== null}<p class="fault mt-1 text-[13px]" role="status">
          No data from {incident.account} since <Moment at={data.darkAccount.since} now={live.now} />: whether it is
          still so, nobody can say. <a class="link" href="/accounts/{data.darkAccount.id}">See the account</a>
        </p>{/if}
      <div class="flex flex-wrap items-center gap-x-2">
        <Acknowledgement {incident} now={live.now} />
        {#if data.actsOn !== null && open}<div class="mt-2 flex flex-wrap items-center gap-2">
            <ActOn resource={data.actsOn} incidentId={incident.id} />
          </div>{/if}
        <IncidentActions {incident} shelving={data.shelving} people={data.people} now={live.now} />
      </div>
    </div>
    <dl class="num ml-auto flex shrink-0 gap-6 text-right max-md:ml-0 max-md:w-full max-md:gap-5 max-md:text-left">
      {#each figures as { name, text } (name)}<div>
          <dt class="text-quiet font-sans text-[12px]">{name}</dt>
          <dd class={['text-[20px] max-md:text-[16px]', name !== 'limit' && 'font-bold']}>
            {text}
          </dd>
        </div>{/each}
    </dl>
  </div>

  <div class="mt-4 grid grid-cols-12 items-start gap-2.5 max-lg:grid-cols-1">
    <div class="col-span-8 flex min-w-0 flex-col gap-2.5 max-lg:col-span-1">
      {#if data.alarm?.signal && data.watched}<section class="panel" aria-label={data.watched.title}>
          <header>
            <h2>{data.watched.title}</h2>
            <small>{data.sentence}</small>
            {#each linesOf(data.alarm.signal) as row (row.name)}<a
                class="link ml-auto text-[13px] whitespace-nowrap"
                href={linesHref(searchBehind(row, incident.labels))}>See its lines</a
              >{/each}
          </header>
          <IncidentChart
            {incident}
            alarm={{ signal: data.alarm.signal, rule: data.alarm.rule }}
            watched={data.watched}
            {range}
            bind:current
          />
        </section>
      {:else if data.rule !== null}<EventsBehind rule={data.rule} now={live.now} />
      {:else}<section class="panel" aria-label="No chart">
          <header>
            <h2>{incident.alarmId === null ? 'The alarm was removed' : 'The alarm cannot be read as it is stored'}</h2>
          </header>
          <p class="text-quiet text-[13px]">
            What it watched is not known, so no chart can be drawn. The numbers that each change of state was decided on
            are below.
          </p>
        </section>{/if}
      <Timeline incidentId={incident.id} timeline={data.timeline} now={live.now} />
      {#if data.rule === null}<section class="panel" aria-label="Why">
          <header>
            <h2>Why</h2>
            <small>the numbers each change was decided on</small>
            {#if incident.alarmId !== null}<a
                class="link ml-auto text-[13px]"
                href="/alarms/{incident.alarmId}/why?series={encodeURIComponent(incident.key)}&at={textFromInstant(
                  incident.openedAt
                )}">At any other moment</a
              >{/if}
          </header>
          {#each data.changes as change (`${change.at}${change.to}`)}<EvidenceTable
              {change}
              unit={data.unit}
              now={live.now}
              late={data.late.find(({ at }) => at === change.at)?.cells ?? 0}
            />{/each}
        </section>{/if}
    </div>
    <div class="col-span-4 flex flex-col gap-2.5 max-lg:col-span-1">
      {#if incident.resource !== ''}{#key incident.id}<UnusualThen
            incidentId={incident.id}
            openedAt={incident.openedAt}
          />{/key}{/if}
      <section class="panel" aria-label="Who is next">
        <header>
          <h2>Who is next</h2>
          <small
            >{data.next.routes.length > 0
              ? `route: ${data.next.routes.map(({ name }) => name).join(', ')}`
              : 'no route has it'}</small
          >
        </header>
        {#each data.next.next as { at, who, person, why, isReached, quietUntil }, index (index)}
          <p class="border-line flex gap-3 border-b py-1 text-[13px] last:border-0">
            <span class="w-[52px] shrink-0"><Moment {at} now={live.now} /></span>
            <span class="min-w-0 flex-1"
              >{#if person}<b>{person}</b>{`, ${who}`}{:else}{who}{/if}{#if quietUntil !== null}<span class="text-quiet"
                  >, not disturbed until <Moment at={quietUntil} now={live.now} /></span
                >{:else if !isReached}<span class="fault"> not reached</span>{/if}</span
            >
            <span class="text-quiet">{why === 'repeat' ? 'again' : why === 'step' ? 'next step' : ''}</span>
          </p>
        {:else}<p class="text-quiet text-[13px]">
            {#if !open}Nobody: it is clear.{:else if incident.acknowledgedBy !== null}{incident.acknowledgedBy} has it, so
              nobody else is notified.{:else if data.shelving}Nobody, as long as it is shelved.{:else if incident.judgedAfterwards}Nobody:
              this was found in history when the alarm was switched on.{:else}Nobody else.
              <a class="link" href="/routes">See the routes</a>{/if}
          </p>{/each}
        {#if incident.alarmId !== null}<p class="mt-2">
            <a class="btn" href="/alarms/{incident.alarmId}">Open the alarm</a>
          </p>{:else if data.rule?.id}<p class="mt-2">
            <a class="btn" href="/event-rules/{data.rule.id}">Open the event rule</a>
          </p>{/if}
      </section>
      {#if data.related.also.length > 0}
        <section class="panel" aria-label="Also raised">
          <header>
            <h2>Also raised</h2>
            <small>within 30 min, near it</small>
          </header>
          {#each data.related.also as other (other.id)}
            <p class="border-line flex items-baseline gap-2 border-b py-1 text-[13px] last:border-0">
              <SeverityHoist severity={other.closedAt === null ? other.severity : null} />
              <a class="link min-w-0 flex-1" href="/incidents/{other.id}">{other.subject}: {other.alarm}</a>
              {#if other.why !== null}<span class="text-quiet text-[12px]">{other.why}</span>{/if}
              <Moment at={other.openedAt} now={live.now} />
            </p>
          {/each}
        </section>
      {/if}
      {#if data.related.count > 0}
        <section class="panel" aria-label="Before">
          <header>
            <h2>Before</h2>
            <small
              >{data.related.count}
              {data.related.count === 1 ? 'time' : 'times'} in 90 days{data.related.median === null
                ? ''
                : `, median ${peopleDuration(duration(data.related.median))}`}</small
            >
          </header>
          {#each data.related.earlier as { id, openedAt, closedAt, acknowledgedBy, outcome, notes } (id)}
            <p class="border-line flex items-baseline gap-2 border-b py-1 text-[13px] last:border-0">
              <Moment at={openedAt} now={live.now} />
              <span class="min-w-0 flex-1"
                >{closedAt === null ? 'still raised' : peopleDuration(duration(closedAt - openedAt))}{outcome === null
                  ? acknowledgedBy === null
                    ? ''
                    : `, ${acknowledgedBy}`
                  : `, ${outcomeText(outcome)}`}</span
              >
              <a class="link" href="/incidents/{id}">{notes > 0 ? 'notes' : 'open'}</a>
            </p>
          {/each}
        </section>
      {/if}
      {#if data.alarm}<AlarmAdvice alarm={data.alarm} />{:else if data.rule?.rule}<AlarmAdvice
          alarm={{ ...data.rule.rule, owner: '' }}
        />{/if}
      {#if data.alarm?.signal}
        {@const { signal, rule } = data.alarm}
        {#each data.others as metric (metric.name)}
          <section class="panel" aria-label={metric.title}>
            <header>
              <h2>{metric.title}</h2>
              <small>of {incident.resource}</small>
            </header>
            <IncidentChart {incident} alarm={{ signal, rule }} watched={metric} other={metric} {range} height={84} />
          </section>
        {/each}
      {/if}
    </div>
  </div>
</main>
