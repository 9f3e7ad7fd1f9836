<script lang="ts">
  import { enhance } from '$app/forms';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import AccessChecks from '$lib/ui/account/AccessChecks.svelte';
  import PullChart from '$lib/ui/account/PullChart.svelte';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data, form }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const account = $derived(data.selected);
  const checks = $derived(form && 'checks' in form ? form.checks : null);
  const series = $derived(data.accounts.reduce((sum, one) => sum + one.series, 0));
  const age = (at: Instant, parts = 2) => peopleDuration(duration(Math.max(0, live.now - at)), parts);
  const left = $derived(
    account.historyReached === null
      ? account.createdAt - account.historyFrom
      : Math.max(0, account.historyReached - account.historyFrom)
  );
</script>

<svelte:head><title>{account.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>Accounts</h1>
    <span class="text-quiet">{data.accounts.length} at 1 provider, {series} series</span>
    {#if mayEdit}<a class="btn btn-main ml-auto" href="/accounts/new">Connect an account</a>{/if}
  </div>
  <div class="grid grid-cols-[240px_1fr] items-start gap-3.5 max-lg:grid-cols-1">
    <nav class="panel p-0!" aria-label="Accounts">
      {#each data.accounts as one (one.id)}
        <a
          href={withRange(`/accounts/${one.id}`)}
          aria-current={one.id === account.id ? 'page' : undefined}
          class={[
            'border-line flex gap-3 border-b px-3 py-2.5 no-underline last:border-0',
            one.id === account.id && 'bg-shallow shadow-[inset_3px_0_var(--deep)]'
          ]}
        >
          <SeverityHoist severity={null} indeterminate={one.lastError !== null || one.newestAt === null} />
          <span class="min-w-0">
            <b>{one.name}</b>
            <span class="text-quiet block text-[13px]"
              >{one.series} series, {one.newestAt === null ? 'nothing yet' : `newest ${age(one.newestAt, 1)} old`}</span
            >
            {#if one.lastError}<span class="fault block text-[13px]">{one.lastError.fault}</span>{/if}
          </span>
          <span class="text-quiet ml-auto text-[12px]">{one.providerName}</span>
        </a>
      {/each}
    </nav>
    <div class="grid grid-cols-2 gap-2.5 max-lg:grid-cols-1">
      <section class="panel" aria-label="Intake of {account.name}">
        <header>
          <h2>{account.name} at {account.providerName}</h2>
          <small>pulled every {peopleDuration(duration(account.intervalMs))}</small>
        </header>
        {#if account.lastError}
          <p class="border-line mb-1 border-b pb-2 text-[13px]" role="alert" data-testid="last-error">
            <b class="fault">! {account.lastError.message}</b>
            {account.lastError.remedy}
            <span class="text-quiet">(<Moment at={account.lastError.at} now={live.now} />)</span>
          </p>
        {/if}
        <table class="rows">
          <tbody>
            <tr
              ><td class="text-quiet">Last pull</td><td class="right"
                >{#if account.lastPullAt}<Moment at={account.lastPullAt} now={live.now} />{:else}not yet{/if}</td
              ></tr
            >
            <tr
              ><td class="text-quiet">Last success</td><td class="right"
                >{#if account.lastSuccessAt}<Moment at={account.lastSuccessAt} now={live.now} />{:else}none yet{/if}</td
              ></tr
            >
            <tr
              ><td class="text-quiet">Newest instant</td><td class="right"
                >{#if account.newestAt}<Moment at={account.newestAt} now={live.now} />, {age(account.newestAt)} ago{:else}none
                  yet{/if}</td
              ></tr
            >
            <tr
              ><td class="text-quiet">Samples a minute</td><td class="right num" data-testid="per-minute"
                >{account.perMinute}</td
              ></tr
            >
            <tr
              ><td class="text-quiet">Found</td><td class="right"
                >{account.resources} resources, {account.series} series</td
              ></tr
            >
            <tr
              ><td class="text-quiet">History</td><td class="right"
                >{left === 0 ? 'complete' : `${peopleDuration(duration(left))} still to fetch`}</td
              ></tr
            >
            <tr
              ><td class="text-quiet">Address</td><td class="right num text-[12px]! break-all">{account.endpoint}</td
              ></tr
            >
            <tr
              ><td class="text-quiet">Key</td><td class="right num text-[12px]!">{account.keyId}, secret sealed</td></tr
            >
          </tbody>
        </table>
      </section>
      <div class="flex flex-col gap-2.5">
        <section class="panel" aria-label="Arriving">
          <header>
            <h2>Arriving</h2>
            <small>samples of each pull, last hour</small>
          </header>
          <PullChart pulls={data.pulls} now={live.now} />
        </section>
        <section class="panel" aria-label="The credential">
          <header>
            <h2>The credential</h2>
            <small
              >{#if form && 'testedAt' in form && form.testedAt}tested <Moment
                  at={form.testedAt}
                  now={live.now}
                />{/if}</small
            >
            {#if mayEdit}<form method="post" action="?/test" use:enhance class="ml-auto">
                <button class="btn">{checks ? 'Test again' : 'Test it'}</button>
              </form>{/if}
          </header>
          {#if checks}<AccessChecks {checks} />{:else}<p class="text-quiet text-[13px]">
              A test tries reach, clock, signature and each right, one after the other.
            </p>{/if}
        </section>
      </div>
    </div>
  </div>
</main>
