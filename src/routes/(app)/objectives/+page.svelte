<script lang="ts">
  import { shareText } from '$lib/core/objective';
  import { peopleDate, type Instant } from '$lib/core/time';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Behind from '$lib/ui/objective/Behind.svelte';
  import BudgetLeft from '$lib/ui/objective/BudgetLeft.svelte';
  import { lastsWords } from '$lib/ui/objective/lasts';
  import { levelReached } from '$lib/ui/objective/reached';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { mayEdit, dates } = useReader();
  useRefresh(useLive(), ['objectives'], 'bussola:objectives');
  const dayOf = (at: Instant) => peopleDate(at, dates);
  const standings = $derived(
    data.promises.flatMap(({ objective, found }) => (found?.standing ? [{ objective, standing: found.standing }] : []))
  );
  const broken = $derived(standings.filter(({ standing }) => standing.left !== null && standing.left <= 0));
  const fast = $derived(
    standings.filter(
      ({ objective, standing }) =>
        !broken.some((one) => one.objective === objective) && levelReached(objective, standing) !== null
    )
  );
  const countWords = ['None', 'One', 'Two', 'Three', 'Four', 'Five', 'Six', 'Seven', 'Eight', 'Nine', 'Ten'];
  const counted = (count: number) => countWords[count] ?? String(count);
  const heading = $derived.by(() => {
    const all = data.promises.length;
    const of = counted(all).toLowerCase();
    const first =
      broken.length === 0
        ? all === 1
          ? 'The promise is met'
          : `All ${of} promises are met`
        : all === 1
          ? 'The promise is broken'
          : broken.length === 1
            ? `One of ${of} promises is broken: ${broken[0]?.objective.name}`
            : `${counted(broken.length)} of ${of} promises are broken`;
    const [one] = fast;
    if (one === undefined) return `${first}.`;
    return `${first}; ${fast.length === 1 ? `${one.objective.name} uses its error budget fast` : `${counted(fast.length).toLowerCase()} use their error budget fast`}.`;
  });
</script>

<svelte:head><title>Objectives · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  {#if data.promises.length === 0}
    <h1>No promises yet</h1>
    <p class="text-quiet mt-1 max-w-[70ch]">
      A promise says how much has to be good over a period, such as 99.9 % of ticket sales in 30 days. Bussola counts
      how much of what may fail is used, how fast, and notifies people before all of it is.
    </p>
  {:else}
    <h1>{heading}</h1>
    <p class="text-quiet mb-3 text-[14px]">
      How much of what may be bad is left in each period, and for how long it lasts.
    </p>
    {#each standings as { objective, standing } (objective)}<Behind
        name={objective.name}
        until={standing.until}
        now={data.now}
      />{/each}
    <section class="panel overflow-x-auto" aria-label="Promises">
      <table class="rows">
        <thead
          ><tr
            ><th><span class="sr-only">Severity</span></th><th>Promise</th><th class="right">Target</th><th
              class="right">Now</th
            ><th class="min-w-[220px]">Error budget left</th><th>Lasts</th></tr
          ></thead
        >
        <tbody>
          {#each data.promises as { id, objective, found } (id)}
            <tr data-promise={objective.name}>
              <td class="w-6"
                ><SeverityHoist severity={found?.standing ? levelReached(objective, found.standing) : null} /></td
              >
              <td><a class="font-semibold hover:underline" href="/objectives/{id}">{objective.name}</a></td>
              <td class="num right whitespace-nowrap">{objective.targetPercent} %</td>
              {#if found === null}<td colspan="3" class="text-quiet">Off</td>
              {:else if found.standing === null}<td colspan="3" class="fault">{found.problem.message}</td>
              {:else}
                {@const { standing } = found}
                <td class="num right whitespace-nowrap">{standing.share === null ? '–' : shareText(standing.share)}</td>
                <td><BudgetLeft left={standing.left} isSpent={standing.spentSince !== null} /></td>
                <td class="text-quiet">{lastsWords(standing, objective.period.kind === 'rolling', dayOf)}</td>
              {/if}
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
  {/if}
  <p class="mt-2.5 flex gap-2">
    {#if mayEdit}<a class="btn" href="/objectives/new">Make a promise</a>{/if}
    <a class="btn" href="/objectives/files">As a file</a>
  </p>
</main>
