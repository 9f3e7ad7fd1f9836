<script lang="ts">
  import { dateOf, dayAt, dayWords, monthAfter, monthAt, monthWords } from '$lib/core/cost';
  import { countOf } from '$lib/core/words/count';
  import ConnectOffer from '$lib/ui/account/ConnectOffer.svelte';
  import FocusImport from '$lib/ui/cost/FocusImport.svelte';
  import Rates from '$lib/ui/cost/Rates.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayAdminister } = useReader();
  useRefresh(live, ['costs'], 'bussola:costs');
  const present = $derived(monthAt(dayAt(data.now)));
  const months = $derived(Array.from({ length: 14 }, (_, index) => monthAfter(present, -index)));
  const thisMonth = $derived(present.name);
  let month = $derived(thisMonth);
  let account = $state('');
  const troubled = $derived(data.bills.filter(({ error }) => error !== null).length);
  const heading = $derived(
    data.bills.length === 0
      ? 'No bills yet'
      : troubled > 0
        ? `The bills of ${troubled} of ${countOf(data.bills.length, 'account')} cannot be read`
        : `Bills of ${countOf(data.bills.length, 'account')} are read`
  );
</script>

<svelte:head><title>Bills and rates · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">{heading}</h1>
  <div class="grid grid-cols-[minmax(0,1fr)_380px] gap-2.5 max-lg:grid-cols-1">
    <section class="panel overflow-x-auto" aria-label="Bills">
      <header>
        <h2>Bills</h2>
        <small>days in UTC, as providers bill</small>
      </header>
      <table class="rows">
        <thead><tr><th>Account</th><th>From</th><th>To</th><th>State</th></tr></thead>
        <tbody>
          {#each data.bills as { accountId, account: name, oldest, newest, error, rejected } (accountId)}
            <tr data-bill={name}>
              <td><b>{name}</b></td>
              <td class="num whitespace-nowrap">{oldest === null ? '' : dateOf(oldest)}</td>
              <td class="num whitespace-nowrap">{newest === null ? '' : dateOf(newest)}</td>
              <td>
                {#if error}<span class="fault">{error.message}</span> <span class="text-quiet">{error.remedy}</span>
                {:else if newest === null}<span class="text-quiet">Being read</span>
                {:else}Read{/if}
                {#if rejected}
                  <details>
                    <summary>{countOf(rejected.count, 'row')} not read</summary>
                    <ul class="text-quiet text-[12px]">
                      {#each rejected.first as { line, why } (line)}<li>Line {line}: {why}</li>{/each}
                    </ul>
                  </details>
                {/if}
              </td>
            </tr>
          {:else}
            <tr
              ><td colspan="4" class="text-quiet"
                >Bills are read from accounts whose credential may read them. <ConnectOffer /> to begin, or import a file.</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
      <form
        class="mt-3 flex flex-wrap items-center gap-2 text-[13px]"
        action="/api/v1/bills/focus"
        method="get"
        data-sveltekit-reload
      >
        <label
          >Export <select class="field w-auto!" name="month" bind:value={month}
            >{#each months as one (one.name)}<option value={one.name}
                >{monthWords(one, Number(present.name.slice(0, 4)))}</option
              >{/each}</select
          ></label
        >
        <label
          >of <select class="field w-auto!" name={account === '' ? undefined : 'account'} bind:value={account}
            ><option value="">all accounts</option>{#each data.bills as one (one.accountId)}<option value={one.account}
                >{one.account}</option
              >{/each}</select
          ></label
        >
        <button class="btn">Download as FOCUS</button>
        <span class="text-quiet">until {dayWords(dateOf(dayAt(data.now)))}</span>
      </form>
    </section>
    <Rates currency={data.currency} rates={data.rates} {mayAdminister} today={dateOf(dayAt(data.now))} />
    {#if mayAdminister}<FocusImport accounts={data.accounts} />{/if}
  </div>
</main>
