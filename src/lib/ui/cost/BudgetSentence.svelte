<script lang="ts">
  import {
    aboutMoney,
    dateOf,
    dayWords,
    levelOf,
    periodWords,
    scopeWords,
    type Budget,
    type BudgetStanding,
    type DayNumber
  } from '$lib/core/cost';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';

  interface Props {
    id: number;
    budget: Budget;
    standing: BudgetStanding | null;
    /** What the route is called that it names; null for the list of routes. */
    routeName: string | null;
  }
  let { id, budget, standing, routeName }: Props = $props();
  const level = $derived(standing && levelOf(budget, standing));
  const money = $derived((amount: number) => aboutMoney(amount, budget.currency));
</script>

<li class="border-line border-b py-2 last:border-b-0" data-budget={budget.name}>
  <a class="block hover:underline" href="/cost/budgets/{id}" aria-label={budget.name}>
    Notify <b>{routeName ?? 'by the routes'}</b> when <b>{scopeWords(budget.filters)}</b>
    {budget.on === 'expected'
      ? budget.filters.length === 0
        ? 'are expected to pass'
        : 'is expected to pass'
      : budget.filters.length === 0
        ? 'have passed'
        : 'has passed'} <b class="num">{money(budget.amount)}</b> a <b>{periodWords(budget.period)}</b>.
  </a>
  <span class="mt-0.5 flex items-center gap-1.5 text-[12px]">
    {#if !budget.enabled}<span class="text-quiet">Off</span>
    {:else if standing === null}<span class="text-quiet">No bill in {budget.currency} to go by</span>
    {:else}
      <SeverityHoist severity={level?.severity ?? null} />
      <span class={level === null ? 'text-quiet' : `text-${level.severity}`}
        >{standing.expected === null ? '' : `expected ${money(standing.expected)}, `}{money(standing.spent)} until {dayWords(
          dateOf((standing.until - 1) as DayNumber)
        )}</span
      >
    {/if}
  </span>
</li>
