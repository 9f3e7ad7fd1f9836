<script lang="ts">
  import { formOf } from '$lib/core/words/count';
  import LowDisk from '$lib/ui/account/LowDisk.svelte';
  import ConnectOffer from '$lib/ui/account/ConnectOffer.svelte';
  import { goto } from '$app/navigation';
  import { serviceByKey } from '$lib/core/services';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import HourBars from '$lib/ui/account/HourBars.svelte';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  useRefresh(live, ['account'], 'bussola:accounts');
  const age = (at: Instant | null) => (at === null ? null : Math.max(0, live.now - at));
  const isLate = (row: (typeof data.rows)[number]) => {
    const behind = age(row.newestAt);
    return behind === null || behind > row.declaredMs + 180_000;
  };
  const open = $derived(data.errors.filter(({ mendedAt }) => mendedAt === null));
  const late = $derived(data.rows.filter((row) => row.lastError === null && isLate(row)));
  const title = $derived(
    open.length > 0
      ? `${open.length === 1 ? 'One thing is' : `${open.length} things are`} wrong with the intake.`
      : late.length > 0
        ? `${late.length === 1 ? 'One service is' : `${late.length} services are`} behind what is declared.`
        : data.rows.length === 0
          ? 'Nothing is collected yet.'
          : 'Everything arrives as declared.'
  );
  const total = $derived(data.rows.reduce((sum, { perMinute }) => sum + perMinute, 0));
</script>

<svelte:head><title>Intake · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>{title}</h1>
    <span class="text-quiet">{total.toLocaleString('en')} samples a minute from {data.rows.length} services</span>
    <select
      class="field ml-auto w-auto! text-[13px]!"
      aria-label="Account"
      value={data.only ?? ''}
      onchange={(event) =>
        void goto(
          withRange(event.currentTarget.value === '' ? '/intake' : `/intake?account=${event.currentTarget.value}`)
        )}
    >
      <option value="">every account</option>
      {#each data.accounts as { id, name } (id)}<option value={id}>{name}</option>{/each}
    </select>
  </div>
  <LowDisk state={data.overview.lowDisk} />
  <div class="flex flex-col gap-2.5">
    {#if open.length > 0}
      <section class="panel" aria-label="Errors">
        <header>
          <h2>To fix</h2>
          <small>by cause</small>
        </header>
        {#each open as error (`${error.accountId} ${error.service} ${error.code} ${error.firstAt}`)}
          <p class="border-line border-b py-1.5 text-[13px] last:border-0" data-fault={error.code}>
            <b class="fault">! {error.message}</b>
            {error.remedy}
            <span class="text-quiet block"
              ><a class="link" href={withRange(`/accounts/${error.accountId}?service=${error.service}`)}
                >{error.account}, {serviceByKey(error.service).title.toLowerCase()}</a
              >, {error.count}
              {formOf(error.count, 'time')} since <Moment at={error.firstAt} now={live.now} />, last <Moment
                at={error.lastAt}
                now={live.now}
              /></span
            >
          </p>
        {/each}
      </section>
    {/if}
    <section class="panel" aria-label="Services">
      <header>
        <h2>How it arrives</h2>
        <small>each bar ten minutes, four hours of them</small>
      </header>
      <div class="overflow-x-auto">
        <table class="rows">
          <thead
            ><tr
              ><th></th><th>Account</th><th>Service</th><th>Last success</th><th class="right">Newest</th><th
                class="right">Declared</th
              ><th class="right">Samples/min</th><th>Arriving</th><th class="right">Throttled, 1 h</th><th class="right"
                >Still to fetch</th
              ></tr
            ></thead
          >
          <tbody>
            {#each data.rows as row (`${row.accountId} ${row.service}`)}
              {@const behind = age(row.newestAt)}
              <tr data-service={row.service} data-account={row.account}>
                <td><SeverityHoist severity={null} indeterminate={row.lastError !== null || isLate(row)} /></td>
                <td
                  ><a class="link" href={withRange(`/accounts/${row.accountId}?service=${row.service}`)}
                    >{row.account}</a
                  ></td
                >
                <td
                  >{serviceByKey(row.service).title}{#if row.lastError}<span class="fault block text-[12px]"
                      >{row.lastError.code}</span
                    >{/if}</td
                >
                <td
                  >{#if row.lastSuccessAt}<Moment at={row.lastSuccessAt} now={live.now} />{:else}<span
                      class="text-quiet">none yet</span
                    >{/if}</td
                >
                <td class={['num right', isLate(row) && 'fault']}
                  >{behind === null ? 'nothing' : peopleDuration(duration(behind))}</td
                >
                <td class="num text-quiet right"
                  >{peopleDuration(duration(row.declaredMs))}{#if row.latestDeclaredMs > 600_000}, to {peopleDuration(
                      duration(row.latestDeclaredMs)
                    )}{/if}</td
                >
                <td class="num right">{row.perMinute.toLocaleString('en')}</td>
                <td><HourBars hours={row.points} /></td>
                <td class="num right">{row.throttled}</td>
                <td class="num right">{row.gapMs === 0 ? '' : peopleDuration(duration(row.gapMs))}</td>
              </tr>
            {:else}
              <tr><td colspan="10" class="text-quiet">No account brings anything yet. <ConnectOffer />.</td></tr>
            {/each}
          </tbody>
        </table>
      </div>
    </section>
    <div class="grid grid-cols-2 items-start gap-2.5 max-lg:grid-cols-1">
      <section class="panel" aria-label="Not stored">
        <header>
          <h2>Not stored</h2>
          <small>values that were dropped or refused, by reason</small>
        </header>
        {#each data.dropped as one (`${one.accountId} ${one.service} ${one.reason}`)}
          <p class="border-line border-b py-1.5 text-[13px] last:border-0">
            <b class="num">{one.count.toLocaleString('en')}</b>
            {one.reason}, {one.account}, {serviceByKey(one.service).title.toLowerCase()}
            <span class="text-quiet block break-words"
              >such as <span class="num text-[12px]">{one.example}</span>, last <Moment
                at={one.lastAt}
                now={live.now}
              /></span
            >
          </p>
        {:else}<p class="text-quiet text-[13px]">Every value was stored.</p>{/each}
      </section>
      {#if data.bad.length > 0}
        <section class="panel" aria-label="Damaged">
          <header>
            <h2>Damaged</h2>
            <small>stored samples that cannot be read; they were set aside</small>
          </header>
          {#each data.bad as bad (`${bad.seriesId} ${bad.resolution} ${bad.periodFrom}`)}
            <p class="border-line border-b py-1.5 text-[13px] last:border-0">
              <b class="num">{bad.points.toLocaleString('en')}</b>
              {bad.resolution === 0 ? 'samples' : 'summaries'} of {bad.metric} from
              <Moment at={bad.periodFrom as Instant} now={live.now} />, {bad.account}
              <span class="text-quiet block break-words"
                >{bad.reason}. Check the data folder: <span class="num text-[12px]">npm run doctor</span></span
              >
            </p>
          {/each}
        </section>
      {/if}
      <section class="panel" aria-label="Events">
        <header>
          <h2>Events from providers</h2>
          <small>last two days</small>
        </header>
        {#each data.events as event (event.id)}
          <p class="border-line border-b py-1.5 text-[13px] last:border-0">
            <Moment at={event.at} now={live.now} />
            {event.text}
            <span class="text-quiet">{event.resource ?? event.account}</span>
          </p>
        {:else}<p class="text-quiet text-[13px]">Nothing.</p>{/each}
      </section>
    </div>
  </div>
</main>
