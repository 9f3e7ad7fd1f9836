<script lang="ts">
  import { countOf, formOf } from '$lib/core/words/count';
  import { enhance } from '$app/forms';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import AccountList from '$lib/ui/account/AccountList.svelte';
  import CredentialPanel from '$lib/ui/account/CredentialPanel.svelte';
  import HourBars from '$lib/ui/account/HourBars.svelte';
  import PlanEditor from '$lib/ui/account/PlanEditor.svelte';
  import RemoveAccount from '$lib/ui/account/RemoveAccount.svelte';
  import RemovedAccounts from '$lib/ui/account/RemovedAccounts.svelte';
  import ServiceCoverage from '$lib/ui/account/ServiceCoverage.svelte';
  import TargetStates from '$lib/ui/targets/TargetStates.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data, form }: PageProps = $props();
  const live = useLive();
  const { mayEdit, mayAdminister } = useReader();
  const account = $derived(data.selected);
  const series = $derived(data.accounts.reduce((sum, one) => sum + one.series, 0));
  const providers = $derived(new Set(data.accounts.map(({ provider }) => provider)).size);
  const open = $derived(
    page.url.searchParams.get('service') ??
      data.services.find(({ refused }) => refused !== null)?.service ??
      data.services[0]?.service ??
      null
  );
  const planned = $derived(data.services.find(({ service }) => service === open));
  const sum = (key: 'found' | 'collected') => data.services.reduce((total, one) => total + one[key], 0);
  const refused = $derived(
    data.services.filter((one) => one.refused !== null).reduce((total, { found }) => total + found, 0)
  );
  const hours = $derived(
    Array.from({ length: 24 }, (_, i) => data.services.reduce((total, one) => total + (one.hours[i] ?? 0), 0))
  );
  const age = (at: Instant) => peopleDuration(duration(Math.max(0, live.now - at)));
  const late = $derived(data.services.filter(({ declaredDelay }) => declaredDelay > 600_000));
  const problem = $derived(form && 'problem' in form ? (form.problem ?? null) : null);
  const tried = $derived(form && 'tried' in form && Array.isArray(form.tried) ? form.tried : null);

  useRefresh(live, ['account'], 'bussola:accounts');

  function openPlan(service: string): void {
    const search = new URLSearchParams(page.url.search);
    search.set('service', service);
    void goto(`?${search.toString()}`, { keepFocus: true, noScroll: true });
  }
</script>

<svelte:head><title>{account.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>Accounts</h1>
    <span class="text-quiet"
      >{data.accounts.length} at {providers}
      {formOf(providers, 'provider')}, {series.toLocaleString('en')} series</span
    >
    {#if mayAdminister}<a class="btn btn-main ml-auto" href="/accounts/new">Connect an account</a>{/if}
  </div>
  <div class="grid grid-cols-[232px_1fr] items-start gap-3.5 max-lg:grid-cols-1">
    <div>
      <AccountList accounts={data.accounts} selected={account.id} />
      <RemovedAccounts accounts={data.removed} />
    </div>
    <div class="grid grid-cols-5 gap-2.5 max-lg:grid-cols-1">
      <div class="col-span-3 max-lg:col-span-1">
        {#if data.targets === null}<CredentialPanel {account} guide={data.guide} {problem} {tried} />{:else}
          <section class="panel" aria-label="What is read">
            <header>
              <h2>{account.name}, OpenMetrics pages</h2>
              {#if mayAdminister}<a class="btn ml-auto" href="/accounts/{account.id}/pages">Change what is read</a>{/if}
            </header>
            <p class="text-[13px]">
              {countOf(data.targets.length, 'page')}{#if data.listedAt !== null}, listed at
                <span class="num break-all">{data.listedAt}</span>{/if}, read every {data.everySeconds} s.
            </p>
          </section>{/if}
      </div>
      <section class="panel col-span-2 max-lg:col-span-1" aria-label="Arriving">
        <header>
          <h2>Arriving</h2>
          <small
            ><span class="num" data-testid="per-minute">{account.perMinute.toLocaleString('en')}</span> samples a minute</small
          >
          <a class="link ml-auto text-[12.5px]" href="/intake?account={account.id}">how it is going</a>
        </header>
        <HourBars {hours} width={280} height={46} />
        <p class="text-quiet mt-1 text-[12.5px]">each bar an hour of the last day</p>
        {#if account.lastError}
          <p class="mt-1 text-[13px]" role="alert" data-testid="last-error">
            <b class="fault">! {account.lastError.message}</b>
            {account.lastError.remedy}
            <span class="text-quiet">(<Moment at={account.lastError.at} now={live.now} />)</span>
          </p>
        {/if}
        <p class="mt-1 text-[13px]">
          {#if account.newestAt}Newest sample {age(account.newestAt)} old{:else}No sample yet{/if}{#if account.lastPullAt},
            pulled <Moment at={account.lastPullAt} now={live.now} />{/if}.
          {#if late.length > 0}Some metrics come up to {peopleDuration(
              duration(Math.max(...late.map(({ declaredDelay }) => declaredDelay)))
            )} late, as declared.{/if}
        </p>
        {#if account.historyLeftMs > 0}
          {@const done = Math.round(100 * (1 - account.historyLeftMs / Math.max(1, account.historyWholeMs)))}
          <p class="text-quiet text-[13px]" role="status">
            History is being fetched, newest first: {done} %
            <progress class="align-middle" max="100" value={done}></progress>
          </p>
        {/if}
      </section>
      {#if data.targets !== null}<div class="col-span-5 max-lg:col-span-1">
          <TargetStates targets={data.targets} resources={data.targetResources} />
        </div>{:else}<section class="panel col-span-5 max-lg:col-span-1" aria-label="Coverage">
          <header>
            <h2>Coverage</h2>
            <small
              >{sum('found')} resources found, {sum('collected')} collected{refused > 0
                ? `, ${refused} cannot be`
                : ''}</small
            >
            <span class="text-quiet ml-auto flex items-baseline gap-2 text-[12.5px]">
              {#if account.discoveredAt}looked <Moment at={account.discoveredAt} now={live.now} />{:else}not looked yet{/if}
              {#if mayEdit}<form method="post" action="?/discover" use:enhance>
                  <button class="link">look now</button>
                </form>{/if}
            </span>
          </header>
          <ServiceCoverage
            accountId={account.id}
            services={data.services}
            problem={account.lastError?.message ?? null}
            {open}
            onOpen={openPlan}
          />
        </section>{/if}
      {#if planned && data.targets === null}
        <div class="col-span-5 max-lg:col-span-1">
          {#key `${account.id} ${planned.service}`}<PlanEditor
              accountId={account.id}
              account={account.name}
              service={planned}
              lineCoverage={data.lines.find(({ service }) => service === planned.service) ?? null}
              lineCost={data.lineCost}
            />{/key}
          {#if problem && !tried}<p class="fault mt-1 text-[13px]" role="alert">{problem}</p>{/if}
          {#if form && 'done' in form && form.done}<p class="text-ok mt-1 text-[13px]" role="status">
              {form.done}
            </p>{/if}
        </div>
      {/if}
      {#if mayAdminister}<div class="col-span-5 max-lg:col-span-1">
          {#key account.id}<RemoveAccount
              account={account.name}
              isPushed={data.guide === null && data.targets === null}
              uses={data.uses}
            />{/key}
        </div>{/if}
    </div>
  </div>
</main>
