<script lang="ts">
  import {
    aboutMoney,
    costSearch,
    dateOf,
    dayWords,
    monthAfter,
    monthAt,
    monthWords,
    moneyText,
    roundMoney,
    timesWords,
    dayAt,
    type Micros,
    type CostSelection,
    type DayNumber
  } from '$lib/core/cost';
  import ConnectOffer from '$lib/ui/account/ConnectOffer.svelte';
  import CostFilters from '$lib/ui/cost/CostFilters.svelte';
  import BudgetSentence from '$lib/ui/cost/BudgetSentence.svelte';
  import GroupTable from '$lib/ui/cost/GroupTable.svelte';
  import MonthChart from '$lib/ui/cost/MonthChart.svelte';
  import Findings from '$lib/ui/cost/Findings.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  // What was found stays until what is found anew is there: news must not make it flicker.
  let findings = $state.raw<Awaited<PageProps['data']['findings']>>(null);
  let findingsFailed = $state(false);
  $effect(() => {
    let isCurrent = true;
    data.findings.then(
      (found) => isCurrent && ([findings, findingsFailed] = [found, false]),
      () => isCurrent && (findingsFailed = true)
    );
    return () => (isCurrent = false);
  });
  const { mayEdit } = useReader();
  const routeName = (id: number | null) => data.routes.find((one) => one.id === id)?.name ?? null;
  useRefresh(live, ['costs', 'routing'], 'bussola:costs');

  const selection = $derived(data.selection);
  const { month, report, earlier, forecast, currency, until } = $derived(data.month);
  const present = $derived(monthAt(dayAt(data.now)));
  const year = $derived(Number(present.name.slice(0, 4)));
  const name = $derived(monthWords(month, year));
  const isOver = $derived(until >= month.to);
  const isAll = $derived(selection.filters.length === 0);
  const href = (to: Partial<CostSelection>) => `/cost?${costSearch({ ...selection, ...to })}`;
  const monthHref = (months: number) => {
    const to = monthAfter(month, months);
    return href({ month: to.name === present.name ? null : to.name });
  };
  /** Whether a budget is for what is shown. */
  const isSame = (one: CostSelection['filters'], other: CostSelection['filters']) =>
    JSON.stringify(one.map(({ by, values }) => [by, values])) ===
    JSON.stringify(other.map(({ by, values }) => [by, values]));
  const added = (days: Float64Array) => {
    let sum = 0;
    return [...days].map((amount) => (sum += Number.isNaN(amount) ? 0 : amount / 1_000_000));
  };
  /** Budgets of the month for exactly what is shown. */
  const budgets = $derived(
    data.budgets.filter(
      ({ budget: { enabled, period, filters, currency: of } }) =>
        enabled && period.kind === 'month' && of === currency && isSame(filters, selection.filters)
    )
  );
  const overBudget = (expected: number): string => {
    const [least] = budgets.map(({ budget }) => budget.amount).sort((a, b) => a - b);
    if (least === undefined) return '';
    return expected > least ? `, ${aboutMoney(expected - least, currency)} over its budget` : ', within its budget';
  };
  const isBilled = $derived(until > month.from);
  /** Whether there may be bills of earlier months. */
  const hasEarlier = $derived(data.month.oldest !== null && data.month.oldest.from < month.from);
  const heading = $derived(
    !isBilled
      ? `Nothing is billed for ${name} yet`
      : data.month.oldest !== null && data.month.oldest.from >= month.to
        ? `There is no bill of ${name}`
        : isOver
          ? `${name} cost ${roundMoney(report.total, currency)}`
          : forecast === null
            ? `${name} has cost ${roundMoney(report.total, currency)} so far`
            : `${name} will cost about ${aboutMoney(forecast.expected, currency)}${overBudget(forecast.expected)}`
  );
  /** Between which amounts the month ends; null where they are told alike. */
  const interval = $derived.by(() => {
    if (forecast === null) return null;
    const [low, high] = [forecast.low, forecast.high].map((amount) => aboutMoney(amount, currency));
    return low === high ? null : `between ${low} and ${high}`;
  });
  const lastDay = $derived((until - 1) as DayNumber);
  const compared = $derived(monthWords(monthAfter(month, -1), year));
  const picture = $derived({
    month: dayWords(dateOf(month.from)).split(' ')[1] ?? '',
    days: month.to - month.from,
    soFar: added(report.days),
    earlier: added(earlier.days),
    forecast,
    budgets: budgets.map(({ budget: { amount } }) => ({ words: `budget ${aboutMoney(amount, currency)}`, amount })),
    marks: []
  });
  const troubled = $derived(data.month.bills.filter(({ error }) => error !== null));
  const late = $derived(
    data.month.bills.filter(({ newest, error }) => error === null && newest !== null && newest < lastDay && !isOver)
  );
  const rejected = $derived(data.month.bills.filter((one) => one.rejected !== null));
  const unrated = $derived<[string, Micros][]>(Object.entries(report.unrated));
</script>

<svelte:head><title>Cost · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  {#if data.month.oldest === null}
    <h1>No bills yet</h1>
    <p class="text-quiet mt-1 max-w-[70ch]">
      Bussola reads what resources cost from the accounts that are connected, where the credential may read bills, and
      from FOCUS files. {#if data.month.bills.length === 0}<ConnectOffer /> to begin.{:else}They are being read.{/if}
    </p>
  {:else}
    <div class="mb-1 flex flex-wrap items-baseline gap-2">
      <h1>{heading}{isAll ? '' : ' for what is shown'}.</h1>
      <span class="ml-auto flex items-center gap-1 text-[13px]">
        {#if hasEarlier}<a class="btn" href={monthHref(-1)} aria-label="A month earlier">‹</a>{/if}
        <b class="min-w-[90px] text-center">{name}</b>
        {#if month.to <= present.from}<a class="btn" href={monthHref(1)} aria-label="A month later">›</a>{/if}
      </span>
      <span
        class="flex gap-2 text-[12px]"
        title="Whether what was paid up front is spread over the days that it is for, or counts on the day of its bill"
      >
        {#each [['amortised', 'spread over days'], ['billed', 'as billed']] as const as [basis, words] (basis)}
          <a
            class={selection.basis === basis ? 'font-semibold' : 'text-quiet hover:underline'}
            aria-current={selection.basis === basis ? 'true' : undefined}
            href={href({ basis })}>{words}</a
          >
        {/each}
      </span>
    </div>
    <p class="text-quiet mb-3 text-[14px]">
      {#if !isBilled}Bills arrive a day late.{:else if !isOver}{moneyText(report.total, currency)} until {dayWords(
          dateOf(lastDay)
        )}{#if interval}; {interval} in four of five cases{/if}. Bills arrive a day late.{/if}
      {#if findings?.changes[0] && isAll}
        {@const { item, day, before, after } = findings.changes[0]}
        <b class="text-ink">{item.resourceName || item.usage}</b>
        {before <= 0 ? 'is new' : `has cost ${timesWords(after, before)}`} since {dayWords(dateOf(day))}.
      {/if}
    </p>
    {#each troubled as { account, error } (account)}
      <p class="mb-2 text-[13px]"><b>!</b> The bill of {account} cannot be read. {error?.message} {error?.remedy}</p>
    {/each}
    {#each late as { account, newest } (account)}
      <p class="mb-2 text-[13px]">
        <b>!</b> The bill of {account} ends on {dayWords(dateOf(newest ?? lastDay))}: later days are too low.
      </p>
    {/each}
    {#each unrated as [code, amount] (code)}
      <p class="mb-2 text-[13px]">
        <b>!</b>
        {moneyText(amount, code)} is not included: there is no rate from {code} to {currency} for those days.
        <a class="link" href="/bills#rates">Add a rate</a>
      </p>
    {/each}
    {#each rejected as { account, rejected: rows } (account)}
      <p class="mb-2 text-[13px]">
        <b>!</b>
        {rows?.count} rows of the bill of {account} were not read. <a class="link" href="/bills">Which ones</a>
      </p>
    {/each}
    <div class="grid grid-cols-[minmax(0,1fr)_336px] gap-2.5 max-lg:grid-cols-1">
      <section class="panel" aria-label="The month">
        <header>
          <h2>{isOver ? 'The month' : 'This month so far'}</h2>
          <small
            >added up by day; grey: {compared}{forecast && !isOver
              ? '; dashed: as it goes on; soft: four of five cases'
              : ''}</small
          >
        </header>
        <MonthChart
          {picture}
          amountWords={(amount: number) => aboutMoney(amount, currency)}
          label="{heading}, added up by day"
        />
      </section>
      <section class="panel" aria-label="Budgets">
        <header>
          <h2>Budgets</h2>
          <small>in words</small>
        </header>
        <ul class="text-[14px]">
          {#each data.budgets as { id, budget, standing } (id)}
            <BudgetSentence {id} {budget} {standing} routeName={routeName(budget.route)} />
          {:else}
            <li class="text-quiet py-1 text-[13px]">
              None. A budget notifies people when a month, a quarter or days of your own will cost more than an amount.
            </li>
          {/each}
        </ul>
        {#if mayEdit}<p class="mt-2">
            <a class="btn" href="/cost/budgets/new?{costSearch(selection)}">Add a budget</a>
          </p>{/if}
      </section>
      <section class="panel overflow-x-auto" aria-label="Costs">
        <header class="flex-wrap">
          <h2>Costs</h2>
          <small>against {isOver ? '' : 'the same days of '}{compared}</small>
          <span class="ml-auto"><CostFilters {selection} labels={data.month.labels} names={data.month.names} /></span>
        </header>
        <GroupTable {selection} {report} earlier={earlier.groups} {currency} {isOver} />
      </section>
      <section class="panel" aria-label="What changed">
        {#if findings}<Findings {findings} {currency} now={data.now} />
        {:else}
          <header><h2>What changed</h2></header>
          {#if findingsFailed}<p class="text-[13px]">
              <b>!</b> This could not be found out. Reload the page to try again.
            </p>
          {:else}<p class="text-quiet text-[13px]">Looking at each resource and usage…</p>{/if}
        {/if}
      </section>
    </div>
  {/if}
</main>
