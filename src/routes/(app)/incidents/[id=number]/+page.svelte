<script lang="ts">
  import { page } from '$app/state';
  import {
    duration,
    durationFromText,
    peopleDuration,
    resolveRange,
    textFromInstant,
    type Instant
  } from '$lib/core/time';
  import { limitText, quantityText } from '$lib/core/units';
  import { comparedText } from '$lib/core/alarm';
  import Acknowledgement from '$lib/ui/alarm/Acknowledgement.svelte';
  import AlarmAdvice from '$lib/ui/alarm/AlarmAdvice.svelte';
  import EvidenceTable from '$lib/ui/alarm/EvidenceTable.svelte';
  import IncidentChart from '$lib/ui/alarm/IncidentChart.svelte';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { kindWords, stateWords } from '$lib/ui/notify/message-words';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { shownRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  provideHover();
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
  const figures = $derived([
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
        condition?.kind === 'absence' ? peopleDuration(durationFromText(condition.for)) : limitText(bound, data.unit)
    }
  ]);
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
        {open ? 'is raised' : 'is clear again'}: {incident.alarm.toLowerCase()}
      </h1>
      <p class="text-quiet mt-1" data-testid="told">
        {incident.severity}, since <Moment at={incident.openedAt} now={live.now} />{#if incident.closedAt !== null},
          until <Moment at={incident.closedAt} now={live.now} />{/if},
        {lasted}.{place === '' ? '' : ` In ${place}.`}
      </p>
      {#if data.darkAccount !== null}<p class="fault mt-1 text-[13px]" role="status">
          No data from {incident.account} since <Moment at={data.darkAccount.since} now={live.now} />: whether it is
          still so, nobody can say. <a class="link" href="/accounts/{data.darkAccount.id}">See the account</a>
        </p>{/if}
      <Acknowledgement {incident} now={live.now} />
    </div>
    <dl class="num ml-auto flex shrink-0 gap-6 text-right max-md:ml-0 max-md:w-full max-md:gap-5 max-md:text-left">
      {#each figures as { name, text } (name)}<div>
          <dt class="text-quiet font-sans text-[12px]">{name}</dt>
          <dd class={['text-[20px]', name !== 'limit' && 'font-bold']}>
            {text}
          </dd>
        </div>{/each}
    </dl>
  </div>

  <div class="mt-4 grid grid-cols-12 gap-2.5 max-lg:grid-cols-1">
    {#if data.alarm?.signal && data.watched}<section
        class="panel col-span-8 max-lg:col-span-1"
        aria-label={data.watched.title}
      >
        <header>
          <h2>{data.watched.title}</h2>
          <small>{data.sentence}</small>
        </header>
        <IncidentChart
          {incident}
          alarm={{ signal: data.alarm.signal, rule: data.alarm.rule }}
          watched={data.watched}
          {range}
          bind:current
        />
      </section>
    {:else}<section class="panel col-span-8 max-lg:col-span-1" aria-label="No chart">
        <header>
          <h2>{incident.alarmId === null ? 'The alarm was removed' : 'The alarm cannot be read as it is stored'}</h2>
        </header>
        <p class="text-quiet text-[13px]">
          What it watched is not known, so no chart can be drawn. The numbers that each change of state was decided on
          are below.
        </p>
      </section>{/if}
    <section class="panel col-span-4 max-lg:col-span-1" aria-label="Who was notified">
      <header><h2>Who was notified</h2></header>
      {#each data.messages as { id, kind, channel, address, state, lastError, sentAt, createdAt } (id)}
        <div class="border-line border-b py-1.5 text-[13px] last:border-0">
          <b>{channel}</b> <span class="text-quiet num">{address}</span><br />
          <span class={state === 'failed' || (state === 'queued' && lastError) ? 'fault' : 'text-quiet'}
            >{kindWords[kind]}, {stateWords(state, lastError)}
            <Moment at={sentAt ?? createdAt} now={live.now} /></span
          >
        </div>
      {:else}<p class="text-quiet text-[13px]">
          {#if incident.judgedAfterwards}Nobody: this was found in history when the alarm was switched on.{:else}Nobody:
            the alarm had no confirmed channel. {#if incident.alarmId !== null}<a
                class="link"
                href="/alarms/{incident.alarmId}">Choose one</a
              >{/if}{/if}
        </p>{/each}
      {#if incident.alarmId !== null}<p class="mt-2">
          <a class="btn" href="/alarms/{incident.alarmId}">Open the alarm</a>
        </p>{/if}
    </section>
    <section class="panel col-span-8 max-lg:col-span-1" aria-label="Why">
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
    </section>
    <div class="col-span-4 flex flex-col gap-2.5 max-lg:col-span-1">
      {#if data.alarm}<AlarmAdvice alarm={data.alarm} />{/if}
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
