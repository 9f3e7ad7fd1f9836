<script lang="ts">
  import { page as address } from '$app/state';
  import { eventOrigins, type EventOrigin } from '$lib/core/events';
  import { day } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import AddressFilter from '$lib/ui/forms/AddressFilter.svelte';
  import { setParameters } from '$lib/ui/address';
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
  const selects = $derived([
    {
      ...{ name: 'origin', label: 'From', none: 'Everybody' },
      options: eventOrigins.map((origin) => ({ value: origin, text: originWords[origin] }))
    },
    {
      ...{ name: 'type', label: 'Type', none: 'Every type' },
      options: data.types.map((type) => ({ value: type, text: type }))
    }
  ]);
</script>

<svelte:head><title>Events · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-2">
    <h1>{data.events.length === 0 ? 'No event' : countOf(data.events.length, 'event')}</h1>
    <span class="text-quiet text-[14px]">{data.isCut ? 'the newest of' : 'in'} {spanWords}</span>
    {#if mayEdit}<a class="btn ml-auto" href="/event-rules/new">New rule</a>{/if}
  </div>
  <AddressFilter
    textLabel="Text"
    placeholder="a word, a resource, a source"
    {selects}
    allHref={isFiltered ? withRange('/events') : null}
  />
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
                      onclick={() => void setParameters({ event: isChosen ? null : key })}>{said}</button
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
