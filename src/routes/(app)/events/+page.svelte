<script lang="ts">
  import { goto } from '$app/navigation';
  import { page as address } from '$app/state';
  import { eventOrigins, type EventOrigin } from '$lib/core/events';
  import { day } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import type { Picture } from '$lib/ui/chart/picture';
  import Swatch from '$lib/ui/chart/Swatch.svelte';
  import TimeChart from '$lib/ui/chart/TimeChart.svelte';
  import RuleList from '$lib/ui/events/RuleList.svelte';
  import ThisEvent from '$lib/ui/events/ThisEvent.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  provideHover();
  const live = useLive();
  const { mayEdit } = useReader();
  useRefresh(live, ['account', 'alarm', 'mark'], 'bussola:accounts');
  const originWords: Readonly<Record<EventOrigin, string>> = {
    provider: 'Providers',
    program: 'Programs',
    bussola: 'Bussola',
    mark: 'Marks'
  };
  const hues: Readonly<Record<EventOrigin, number>> = { provider: 1, program: 3, bussola: 5, mark: 7 };
  const { range } = $derived(data.filter);
  const picture = $derived<Picture>({
    start: range.from,
    step: data.step,
    count: Math.ceil((range.to - range.from) / data.step),
    range,
    unit: '{event}',
    digits: 0,
    drawing: 'bars',
    lines: data.counts.map(({ origin, cells }, id) => ({
      ...{ id, name: originWords[origin], hue: hues[origin], dashed: false },
      values: Float64Array.from(cells)
    }))
  });
  const isFiltered = $derived(data.filter.text !== null || data.filter.type !== null || data.filter.origin !== null);
  const spanWords = $derived(data.isUsual ? 'the last day' : 'the shown range');
  const isLong = $derived(range.to - range.from > day);
  /** Filters and what is chosen stand in the address, so that it can be sent to a colleague. */
  function choose(name: string, value: string): void {
    const search = new URLSearchParams(address.url.searchParams);
    if (value === '') search.delete(name);
    else search.set(name, value);
    void goto(`/events?${search}`, { keepFocus: true, noScroll: true, replaceState: true });
  }
  /** What is typed; another address, another text: it stays while news arrive. */
  let text = $derived(address.url.searchParams.get('text') ?? '');
</script>

<svelte:head><title>Events · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-2">
    <h1>{data.events.length === 0 ? 'No event' : countOf(data.events.length, 'event')}</h1>
    <span class="text-quiet text-[14px]">{data.isCut ? 'the newest of' : 'in'} {spanWords}</span>
    {#if mayEdit}<a class="btn ml-auto" href="/event-rules/new">New rule</a>{/if}
  </div>
  <form
    class="mb-2.5 flex flex-wrap items-center gap-2 text-[13px]"
    aria-label="Filter"
    onsubmit={(event) => {
      event.preventDefault();
      choose('text', text.trim());
    }}
  >
    <input class="field w-[240px]!" aria-label="Text" placeholder="a word, a resource, a source" bind:value={text} />
    <select
      class="field w-auto!"
      aria-label="From"
      value={data.filter.origin ?? ''}
      onchange={(event) => choose('origin', event.currentTarget.value)}
    >
      <option value="">Everybody</option>
      {#each eventOrigins as origin (origin)}<option value={origin}>{originWords[origin]}</option>{/each}
    </select>
    <select
      class="field w-auto!"
      aria-label="Type"
      value={data.filter.type ?? ''}
      onchange={(event) => choose('type', event.currentTarget.value)}
    >
      <option value="">Every type</option>
      {#each data.types as type (type)}<option value={type}>{type}</option>{/each}
    </select>
    {#if isFiltered}<a class="link" href={withRange('/events')}>Show all</a>{/if}
  </form>
  <div class="flex gap-2.5 max-md:flex-col">
    <div class="min-w-0 flex-1">
      {#if data.events.length > 0}
        <section class="panel mb-2.5" aria-label="Events over time">
          <header>
            <h2>Events over time</h2>
            <small class="flex flex-wrap gap-3"
              >{#each picture.lines as line (line.id)}<span class="flex items-center gap-1"
                  ><Swatch hue={line.hue} />{line.name}</span
                >{/each}</small
            >
          </header>
          <TimeChart {picture} label="Events over time, by where they are from" height={84} />
        </section>
      {/if}
      <section class="panel overflow-x-auto" aria-label="Events">
        <table class="rows">
          <thead><tr><th>Time</th><th>Type</th><th>What happened</th><th>About</th><th>From</th></tr></thead>
          <tbody>
            {#each data.events as { key, origin, at, type, source, text: said, resource, resourceId, account, severity, incidentId }, index (`${key ?? index} ${at} ${type}`)}
              {@const isChosen = key !== null && address.url.searchParams.get('event') === key}
              <tr class={isChosen ? 'bg-shallow' : ''} data-event={type}>
                <td class="whitespace-nowrap"><Moment {at} now={isLong ? live.now : at} /></td>
                <td class="whitespace-nowrap max-md:break-all max-md:whitespace-normal"
                  >{#if severity !== null}<span class="mr-1.5"><SeverityHoist {severity} /></span>{/if}{type}</td
                >
                <td class="break-words"
                  >{#if key !== null}<button
                      class="link text-left"
                      aria-expanded={isChosen}
                      onclick={() => choose('event', isChosen ? '' : key)}>{said}</button
                    >{:else if incidentId !== null}<a class="link" href="/incidents/{incidentId}">{said}</a
                    >{:else}{said}{/if}</td
                >
                <td class="whitespace-nowrap"
                  >{#if resourceId !== null}<a class="link" href={withRange(`/resources/${resourceId}`)}>{resource}</a
                    >{:else}{resource}{/if}</td
                >
                <td class="text-quiet">{origin === 'provider' ? account : source}</td>
              </tr>
            {:else}<tr
                ><td colspan="5" class="text-quiet"
                  >{#if isFiltered}Nothing in {spanWords} matches.
                    <a class="link" href={withRange('/events')}>Show all events</a>{:else}Nothing happened in {spanWords}.
                    Providers report their events by themselves; programs send them by CloudEvents to
                    <code class="num">/api/v1/receive/events</code>, with a key that may send events.
                    <a class="link" href="/receive">Make a key</a>{/if}</td
                ></tr
              >{/each}
          </tbody>
        </table>
      </section>
    </div>
    <aside class="w-[336px] shrink-0 max-md:w-full" aria-label="About the events">
      {#if data.chosen !== null}<ThisEvent event={data.chosen} now={live.now} />{/if}
      <RuleList rules={data.rules} />
    </aside>
  </div>
</main>
