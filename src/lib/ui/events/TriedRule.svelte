<script lang="ts">
  import { eventRuleSchema, type EventRule } from '$lib/core/events';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import { wordsOf } from '../api';
  import { Trying } from '../forms/tried.svelte';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';

  let { rule }: { rule: EventRule } = $props();
  const live = useLive();
  interface Tried {
    readonly tried: number;
    readonly matches: number;
    readonly count: number;
    readonly incidents: readonly {
      readonly thing: string;
      readonly openedAt: Instant;
      readonly closedAt: Instant | null;
      readonly events: number;
      readonly text: string;
    }[];
  }
  const read = $derived(eventRuleSchema.safeParse({ ...$state.snapshot(rule), name: rule.name || 'new' }));
  const trying = new Trying<Tried>('/event-rules/try', () => (read.success ? JSON.stringify(read.data) : ''));
  const tried = $derived(trying.answer);
</script>

<section class="panel" aria-label="Tried on the past">
  <header>
    <h2>Tried on the past</h2>
    <small>the last 14 days</small>
  </header>
  {#if !read.success}<p class="text-quiet text-[13px]">Complete the rule to see it.</p>
  {:else if trying.problem}<p class="text-[13px]" role="status">{wordsOf(trying.problem)}</p>
  {:else if tried !== null}
    <p class="text-[13px]" role="status">
      <b>{tried.count === 0 ? 'No incident' : countOf(tried.count, 'incident')}</b>
      by {countOf(tried.matches, 'event')} of {tried.tried.toLocaleString('en')}.
    </p>
    {#each tried.incidents as { thing, openedAt, closedAt, events, text }, index (index)}
      <p class="border-line border-b py-1 text-[13px] last:border-0">
        <Moment at={openedAt} now={live.now} />
        <b>{thing.slice(thing.indexOf('/') + 1)}</b>
        <span class="text-quiet"
          >{closedAt === null
            ? 'would be raised still'
            : `for ${peopleDuration(duration(closedAt - openedAt))}`}{events > 1
            ? `, ${countOf(events, 'event')}`
            : ''}</span
        >
        <span class="text-quiet block">{text}</span>
      </p>
    {/each}
  {:else}<p class="text-quiet text-[13px]">trying</p>{/if}
</section>
