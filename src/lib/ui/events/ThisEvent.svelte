<script lang="ts">
  import type { OutsideEvent } from '$lib/core/events';
  import { after, before, exactMoment, minute, textFromInstant, times, type Instant } from '$lib/core/time';
  import LineText from '../logs/LineText.svelte';
  import { useReader } from '../time/reader';
  import { withRange } from '../time/shown';

  interface Props {
    event: OutsideEvent;
    now: Instant;
  }
  let { event, now }: Props = $props();
  const reader = useReader();
  const attributes = $derived(Object.entries(event.attributes));
  /** The lines of the time around it, of the same resource where it has one. */
  const linesHref = $derived.by(() => {
    const end = after(event.at, times(5, minute));
    const search = new URLSearchParams({
      q: event.resourceId === null ? '' : `resource = "${event.resource}"`,
      from: textFromInstant(before(event.at, times(10, minute))),
      to: textFromInstant(end < now ? end : now)
    });
    return `/logs?${search}`;
  });
</script>

<section class="panel mb-2.5" aria-label="This event">
  <header><h2>This event</h2></header>
  <p class="text-[13px]"><LineText text={event.text} /></p>
  <dl class="mt-1 grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5 text-[12.5px]">
    <dt class="text-quiet">type</dt>
    <dd class="num break-all">{event.type}</dd>
    <dt class="text-quiet">from</dt>
    <dd class="num break-all">{event.source}</dd>
    <dt class="text-quiet">account</dt>
    <dd>{event.account}</dd>
    {#if event.resource !== ''}
      <dt class="text-quiet">about</dt>
      <dd>
        {#if event.resourceId !== null}<a class="link" href={withRange(`/resources/${event.resourceId}`)}
            >{event.resource}</a
          >{:else}{event.resource}{/if}
      </dd>
    {/if}
    <dt class="text-quiet">at</dt>
    <dd class="num">{exactMoment(event.at, reader.zone)}</dd>
    {#each attributes as [name, value] (name)}
      <dt class="text-quiet break-all">{name}</dt>
      <dd class="num break-all"><LineText text={value} most={400} /></dd>
    {/each}
  </dl>
  <p class="mt-2 flex flex-wrap gap-2">
    <a class="btn" href={linesHref}>See the lines around it</a>
    {#if reader.mayEdit}<a class="btn" href="/event-rules/new?event={event.accountId}.{event.id}">Make a rule of it</a
      >{/if}
  </p>
</section>
