<script lang="ts">
  import { invalidate } from '$app/navigation';
  import type { DatedRate } from '$lib/core/cost';
  import type { Problem } from '$lib/core/problem/problem';
  import { callApi } from '../api';

  interface Props {
    /** In which costs are shown. */
    currency: string;
    /** Newest day of each currency first. */
    rates: readonly (DatedRate & { readonly setBy: string })[];
    mayAdminister: boolean;
    today: string;
  }
  let { currency, rates, mayAdminister, today }: Props = $props();
  let other = $state('');
  let rate = $state<number | null>(null);
  // Of their own, so that news which leave them as they were leave what was typed in their place.
  const usualDay = $derived(today);
  const usualCurrency = $derived(currency);
  let from = $derived(usualDay);
  let problem = $state.raw<Problem | null>(null);
  let own = $derived(usualCurrency);
  const codes = Intl.supportedValuesOf('currency');

  async function send(
    method: 'PUT' | 'DELETE',
    path: string,
    options: Parameters<typeof callApi>[2]
  ): Promise<boolean> {
    const reply = await callApi(method, path, options);
    problem = reply.kind === 'refused' ? reply.problem : null;
    if (reply.kind === 'answered') await invalidate('bussola:costs');
    return reply.kind === 'answered';
  }
  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await send('PUT', '/costs/rates', { body: { currency: other.toUpperCase(), from, rate } })) rate = null;
  }
</script>

<section class="panel" aria-label="Rates" id="rates">
  <header>
    <h2>Rates</h2>
    <small>each cost uses the rate of its own day</small>
  </header>
  <p class="mb-1 text-[13px]">
    Costs are shown in
    {#if mayAdminister}
      <select
        class="part"
        aria-label="Currency that costs are shown in"
        bind:value={own}
        onchange={async () => {
          if (!(await send('PUT', '/costs/currency', { body: { currency: own } }))) own = currency;
        }}
        >{#each codes as code (code)}<option>{code}</option>{/each}</select
      >
    {:else}<b>{currency}</b>{/if}.
  </p>
  <table class="rows">
    <thead><tr><th>One</th><th>From</th><th class="right">Is {currency}</th><th></th></tr></thead>
    <tbody>
      {#each rates as one (`${one.currency} ${one.from}`)}
        <tr title="Set by {one.setBy}">
          <td class="num">{one.currency}</td>
          <td class="num">{one.from}</td>
          <td class="num right">{one.rate}</td>
          <td class="right"
            >{#if mayAdminister}<button
                class="btn"
                aria-label="Remove the rate of {one.currency} from {one.from}"
                onclick={() => send('DELETE', '/costs/rates', { query: { currency: one.currency, from: one.from } })}
                >Remove</button
              >{/if}</td
          >
        </tr>
      {:else}
        <tr><td colspan="4" class="text-quiet">None: bills in other currencies are not included.</td></tr>
      {/each}
    </tbody>
  </table>
  {#if mayAdminister}
    <form class="mt-2 flex flex-wrap items-center gap-1.5 text-[13px]" onsubmit={add}>
      One <input
        class="field num w-[64px]!"
        aria-label="Currency"
        bind:value={other}
        list="currencies"
        maxlength="3"
        required
      />
      from <input class="field num w-[136px]!" aria-label="From the day" type="date" bind:value={from} required />
      is
      <input
        class="field num w-[90px]!"
        aria-label="Rate"
        type="number"
        step="any"
        min="0"
        bind:value={rate}
        required
      />
      {currency}
      <button class="btn">Add rate</button>
      <datalist id="currencies"
        >{#each codes as code (code)}<option>{code}</option>{/each}</datalist
      >
    </form>
  {/if}
  {#if problem}<p class="fault mt-1 text-[13px]" role="alert">{problem.message} {problem.remedy}</p>{/if}
</section>
