<script lang="ts">
  import { channelKindWords } from '$lib/core/notify';
  import Acknowledgement from '$lib/ui/alarm/Acknowledgement.svelte';
  import ConnectOffer from '$lib/ui/account/ConnectOffer.svelte';
  import { serviceByKey } from '$lib/core/services';
  import { day, duration, peopleDuration } from '$lib/core/time';
  import IncidentChart from '$lib/ui/alarm/IncidentChart.svelte';
  import LowDisk from '$lib/ui/account/LowDisk.svelte';
  import IncidentRow from '$lib/ui/alarm/IncidentRow.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import { conditionIn, gravestLevel, limitOf } from '$lib/core/alarm';
  import { quantityText } from '$lib/core/units';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  provideHover();
  /** The gravest of what is open, in this order; not all of it when it is much. */
  const open = $derived(data.overview.open);
  const raised = $derived(data.overview.counts.raised);
  const worst = $derived(open[0]);
  const mostShown = 25;
  /** On a phone, the line at the top has no room for who has the watch. */
  const watch = $derived(data.overview.onCall.find(({ person }) => person !== null) ?? data.overview.onCall[0]);
  const { trouble } = $derived(data.overview);
  const alarm = $derived(worst ? data.alarms.find(({ id }) => id === worst.alarmId) : undefined);
  const watched = $derived(alarm && { ...alarm.watched, unit: worst?.unit ?? alarm.watched.unit });
  const level = $derived(
    alarm && (alarm.rule.levels.find(({ severity }) => severity === worst?.severity) ?? gravestLevel(alarm.rule))
  );
  const place = $derived(worst ? [worst.account, worst.region].filter((part) => part !== '').join(', ') : '');
  let current = $state<number | null>(null);
  const earlier = $derived(
    data.overview.logbook.incidents.filter(({ closedAt }) => closedAt !== null && live.now - closedAt < day).slice(0, 8)
  );
  const messages = (count: number) => (count === 1 ? '1 message is' : `${count} messages are`);
  const fresh = $derived(data.overview.newest !== null && live.now - data.overview.newest < 300_000);
</script>

<svelte:head><title>{raised > 0 ? `${raised} raised` : 'Watch'} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-4 max-md:overflow-visible">
  <LowDisk state={data.overview.lowDisk} />
  {#if trouble}
    <p class="panel mb-4 border-l-4! border-l-[var(--major)]! text-[13.5px]" role="alert">
      <b
        >{!data.works.anyWorks
          ? 'Bussola cannot notify anyone at present.'
          : data.works.deaf.length > 0
            ? `Nothing leaves by ${data.works.deaf.map(({ kind }) => channelKindWords[kind]).join(' and ')} at present.`
            : trouble.waiting > 0
              ? 'Some messages could not be sent yet.'
              : 'Some messages were never sent.'}</b
      >
      <span
        >{#if trouble.waiting > 0}{messages(trouble.waiting)} waiting since <Moment
            at={trouble.since}
            now={live.now}
          />.{/if}
        {#if trouble.failed > 0}{messages(trouble.failed)} given up.{/if}
        {trouble.reason}. <a class="link" href="/outbox">See the messages</a></span
      >
    </p>
  {/if}
  {#if watch}<p class="text-quiet mb-2 text-[13px] md:hidden">
      On call: <b class={watch.person === null ? 'fault' : 'text-ink'}>{watch.person ?? 'nobody'}</b> ({watch.rota})
    </p>{/if}
  {#if worst}
    <div class="grid grid-cols-12 gap-4 max-lg:grid-cols-1">
      <div class="col-span-8 max-lg:col-span-1">
        <h1 class="text-[24px]! leading-[30px]!">
          {worst.alarm} on
          <span class="decoration-3 underline underline-offset-4" style:text-decoration-color="var(--{worst.severity})"
            >{worst.subject}</span
          >
          for {peopleDuration(duration(Math.max(0, live.now - worst.openedAt)))}.
        </h1>
        <p class="mt-1.5">
          {worst.severity.charAt(0).toUpperCase() + worst.severity.slice(1)}, since <Moment
            at={worst.openedAt}
            now={live.now}
          />.
          {#if watched && level}{@const { condition } = level}
            {#if condition.kind === 'absence'}{watched.title}: no sample.{:else}{watched.title} is
              <b class="num">{quantityText(current ?? NaN, watched.unit)}</b>{#if condition.kind === 'threshold'}, <span
                  class="num">{limitOf(condition, watched.unit)}</span
                >{/if}.{/if}
            {#if condition.kind !== 'threshold'}Raised when it {conditionIn(condition, watched.unit)}.{/if}{/if}
        </p>
        <p class="text-quiet">
          {place === '' ? '' : `In ${place}. `}{raised > 1 ? `${raised - 1} more raised.` : 'Nothing else is raised.'}
        </p>
        <Acknowledgement incident={worst} now={live.now} />
        <p class="mt-3 flex gap-2">
          <a class="btn btn-main" href={withRange(`/incidents/${worst.id}`)}>Open incident</a><a
            class="btn"
            href={withRange(`/services/${worst.service || 'machines'}/board`)}
            >{worst.service ? serviceByKey(worst.service).title : 'Machines'} board</a
          >
        </p>
      </div>
      {#if alarm?.signal && watched}
        {@const { signal, rule } = alarm}
        {#key worst.id}
          <section class="panel col-span-4 max-lg:col-span-1" aria-label="The worst of them">
            <header>
              <h2>{watched.title}</h2>
              <small>{worst.subject}</small>
            </header>
            <IncidentChart incident={worst} alarm={{ signal, rule }} {watched} height={120} bind:current />
          </section>
        {/key}
      {/if}
    </div>
  {:else if data.accounts === 0}
    <h1 class="text-[24px]!">Nothing is watched yet.</h1>
    <p class="text-quiet mt-1.5">
      Once an account is connected, its resources and their metrics come in by themselves.
    </p>
    <p class="mt-3"><ConnectOffer isMain /></p>
  {:else}
    <h1 class="text-[24px]!">{fresh ? 'Nothing is raised.' : 'Nothing is raised, but the data are old.'}</h1>
    <p class="text-quiet mt-1.5">
      {data.alarms.length === 1 ? '1 alarm watches' : `${data.alarms.length} alarms watch`}
      {data.resources} resources{data.indeterminate > 0 ? `; ${data.indeterminate} series are indeterminate` : ''}.
    </p>
    {#if data.alarms.length === 0}<p class="mt-3">
        <a class="btn btn-main" href={withRange('/alarms/new')}>Make an alarm</a>
      </p>{/if}
  {/if}

  <div class="mt-5 grid grid-cols-12 gap-2.5 max-lg:grid-cols-1">
    <section class="panel col-span-8 max-lg:col-span-1" aria-label="Raised now">
      <header>
        <h2>Raised now</h2>
        <small
          >{open.length === 0
            ? ''
            : `on ${[...new Set(open.map(({ resource }) => resource))].slice(0, 3).join(', ')}`}</small
        >
      </header>
      {#if open.length > 0}
        <table class="rows">
          <tbody
            >{#each open.slice(0, mostShown) as incident (incident.id)}<IncidentRow
                {incident}
                now={live.now}
              />{/each}</tbody
          >
        </table>
        {#if raised > mostShown}<p class="mt-1 text-[13px]">
            <a class="link" href="/incidents">and {(raised - mostShown).toLocaleString('en')} more</a>
          </p>{/if}
      {:else}<p class="text-quiet text-[13px]">Nothing.</p>{/if}
    </section>
    <section class="panel col-span-4 max-lg:col-span-1" aria-label="Will fail silently">
      <header>
        <h2>Will fail silently</h2>
        <small>fix before tonight</small>
      </header>
      {#each data.silent as { what, why, href, button } (what)}
        <div class="border-line flex items-center gap-3 border-b py-1.5 last:border-0">
          <p class="min-w-0 text-[13px]">
            <b class="break-words">{what}</b><span class="text-quiet block text-[12px]">{why}</span>
          </p>
          <a class="btn ml-auto shrink-0" {href}>{button}</a>
        </div>
      {:else}<p class="text-quiet text-[13px]">Nothing: every account answers and every channel is confirmed.</p>{/each}
    </section>
    <section class="panel col-span-8 max-lg:col-span-1" aria-label="Earlier">
      <header>
        <h2>Earlier</h2>
        <small>raised and clear again in the last 24 hours</small>
      </header>
      {#if earlier.length > 0}
        <table class="rows">
          <tbody
            >{#each earlier as incident (incident.id)}<IncidentRow {incident} now={live.now} />{/each}</tbody
          >
        </table>
      {:else}<p class="text-quiet text-[13px]">Nothing.</p>{/if}
    </section>
  </div>
</main>
