<script lang="ts">
  import type { Severity } from '$lib/core/alarm';
  import { leftText, objectiveSchema, shareText, type Objective } from '$lib/core/objective';
  import { peopleDate, type Instant } from '$lib/core/time';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { Trying } from '../forms/tried.svelte';
  import { useReader } from '../time/reader';

  interface Counted {
    readonly from: Instant;
    readonly to: Instant;
    readonly share: number | null;
    readonly left: number | null;
  }
  interface Answer {
    readonly standing: Counted;
    readonly past: readonly Counted[];
    readonly raised: readonly {
      readonly severity: Severity;
      readonly times: number;
      readonly last: { readonly from: Instant } | null;
    }[];
  }
  /** What is written in the editor, complete or not. */
  let { objective }: { objective: Objective } = $props();
  const { dates } = useReader();
  const read = $derived(objectiveSchema.safeParse({ ...$state.snapshot(objective), name: objective.name || 'new' }));
  const tried = new Trying<Answer>('/objectives/try', () => (read.success ? JSON.stringify(read.data) : ''));
  const timesText = (count: number) => (count === 0 ? 'never' : count === 1 ? 'once' : `${count} times`);
</script>

{#snippet row({ from, to, share, left }: Counted, isNow: boolean)}
  <tr data-period={isNow ? 'now' : undefined}>
    <td>{peopleDate(from, dates)} to {isNow ? 'now' : peopleDate(to, dates)}</td>
    <td class="num right">{share === null ? '–' : shareText(share)}</td>
    <td class="num right">{left === null ? '–' : leftText(left)}</td>
    <td class={left !== null && left <= 0 ? 'fault' : 'text-quiet'}
      >{left === null ? 'Nothing counted' : left <= 0 ? 'Broken' : isNow ? 'Met so far' : 'Met'}</td
    >
  </tr>
{/snippet}

<section class="panel" aria-label="Now and in past periods">
  <header>
    <h2>Now and in past periods</h2>
    <small>on stored history, with this target</small>
  </header>
  {#if tried.problem}<p class="fault text-[13px]" role="alert">{tried.problem.message} {tried.problem.remedy}</p>
  {:else if !read.success}<p class="text-quiet text-[13px]">Complete the sentence to see it.</p>
  {:else if tried.answer === null}<p class="text-quiet text-[13px]">Counting…</p>
  {:else}
    {@const { standing, past, raised } = tried.answer}
    <table class="rows">
      <thead
        ><tr
          ><th>Period</th><th class="right">Good</th><th class="right">Error budget left</th><th
            ><span class="sr-only">Outcome</span></th
          ></tr
        ></thead
      >
      <tbody>
        {@render row(standing, true)}
        {#each past as one (one.from)}{@render row(one, false)}{/each}
      </tbody>
    </table>
    {#if raised.length > 0}
      <p class="mt-2 flex flex-wrap gap-x-4 gap-y-1 text-[13px]">
        <span class="text-quiet">In the last 30 days raised</span>
        {#each raised as { severity, times, last } (severity)}
          <span class="flex items-center gap-1.5" data-raised={severity}
            ><SeverityHoist {severity} />{severity}: {timesText(times)}{last
              ? `, last on ${peopleDate(last.from, dates)}`
              : ''}</span
          >
        {/each}
      </p>
    {/if}
  {/if}
</section>
