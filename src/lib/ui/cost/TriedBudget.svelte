<script lang="ts">
  import { aboutMoney, budgetSchema, dayOf, dayWords, levelOf, spanWords, type Budget } from '$lib/core/cost';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { Trying } from '../forms/tried.svelte';

  interface Tried {
    readonly standing: {
      readonly from: string;
      readonly to: string;
      readonly spent: number;
      readonly expected: number | null;
    } | null;
    readonly past: readonly {
      readonly from: string;
      readonly to: string;
      readonly spent: number;
      readonly passedOn: string | null;
    }[];
  }
  /** What is written in the editor, complete or not. */
  let { budget }: { budget: Budget } = $props();
  const read = $derived(budgetSchema.safeParse({ ...$state.snapshot(budget), name: budget.name || 'new' }));
  const asked = $derived(read.success ? JSON.stringify(read.data) : '');
  const trying = new Trying<Tried>('/budgets/try', () => asked);
  const tried = $derived(trying.answer);
  const money = (amount: number) => aboutMoney(amount, budget.currency);
  const span = (from: string, to: string) => spanWords({ from: dayOf(from), to: dayOf(to) });
  const severityNow = $derived(
    tried?.standing && read.success ? (levelOf(read.data, tried.standing)?.severity ?? null) : null
  );
</script>

<section class="panel" aria-label="Now and in past periods">
  <header>
    <h2>Now and in past periods</h2>
  </header>
  {#if trying.problem}<p class="fault text-[13px]" role="alert">{trying.problem.message} {trying.problem.remedy}</p>
  {:else if !read.success}<p class="text-quiet text-[13px]">Complete the sentence to see it.</p>
  {:else if tried === null}<p class="text-quiet text-[13px]">Adding up…</p>
  {:else}
    <table class="rows">
      <thead><tr><th>Period</th><th class="right">Cost</th><th class="right">Expected</th><th></th></tr></thead>
      <tbody>
        {#if tried.standing}
          <tr data-period="now">
            <td>{span(tried.standing.from, tried.standing.to)}</td>
            <td class="num right">{money(tried.standing.spent)}</td>
            <td class="num right">{tried.standing.expected === null ? '' : money(tried.standing.expected)}</td>
            <td class="flex items-center gap-1.5"
              ><SeverityHoist severity={severityNow} />{severityNow === null
                ? 'Not raised'
                : `Raised as ${severityNow} now`}</td
            >
          </tr>
        {:else}
          <tr><td colspan="4" class="text-quiet">There is no bill of this period yet.</td></tr>
        {/if}
        {#each tried.past as { from, to, spent, passedOn } (from)}
          <tr>
            <td>{span(from, to)}</td>
            <td class="num right">{money(spent)}</td>
            <td></td>
            <td class={passedOn === null ? 'text-quiet' : 'fault'}
              >{passedOn === null ? 'Within the amount' : `Exceeded on ${dayWords(passedOn)}`}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</section>
