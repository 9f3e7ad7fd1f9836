<script lang="ts">
  import { quotedSearch, shapeNews, together, type AlikeLines } from '$lib/core/logs';
  import type { Instant } from '$lib/core/time';
  import { countOf, formOf } from '$lib/core/words/count';
  import Moment from '../time/Moment.svelte';
  import type { Found } from './found.svelte';

  interface Props {
    found: Found;
    now: Instant;
    /** Adds a clause to the search. */
    onNarrow: (clause: string) => void;
    /** Where an alarm on new shapes of what is searched for is made; null for whoever may make none. */
    alarmHref: string | null;
  }
  let { found, now, onNarrow, alarmHref }: Props = $props();
  const few = 6;
  let isWhole = $state(false);
  const alike = $derived(together(found.shapes));
  const shown = $derived(isWhole ? alike : alike.slice(0, few));
  const share = $derived(
    found.count === 0 ? 0 : (100 * shown.reduce((sum, { count }) => sum + count, 0)) / found.count
  );
  const clauseOf = ({ of }: AlikeLines): string => {
    const each = of.map(({ stream, shape }) => `stream = ${quotedSearch(stream)} shape = ${shape}`);
    return each.length === 1 ? (each[0] ?? '') : `(${each.map((one) => `(${one})`).join(' or ')})`;
  };
  const timesText = (times: number): string => (times >= 10 ? Math.round(times).toString() : times.toFixed(1));
</script>

<section class="panel mb-2.5" aria-label="Lines that are alike">
  <header>
    <h2>Lines that are alike</h2>
    <small
      >{shown.length}
      {formOf(shown.length, 'shape holds', 'shapes hold')}
      {share >= 99.5 && share < 100 ? '99' : share.toFixed(0)} %</small
    >
    {#if alarmHref !== null}<a class="link ml-auto text-[12.5px] whitespace-nowrap" href={alarmHref}
        >Alarm on new ones</a
      >{/if}
  </header>
  <ul class="text-[12.5px]">
    {#each shown as one (one.text)}
      {@const news = shapeNews(one, found, now)}
      <li class="border-line border-b py-1 last:border-0">
        <div class="flex items-baseline gap-2">
          <button
            class="num min-w-0 flex-1 truncate text-left hover:underline"
            title={`Only lines like it: ${one.text}`}
            onclick={() => onNarrow(clauseOf(one))}>{one.text === '' ? 'lines without words' : one.text}</button
          >
          <span class="num">{one.count.toLocaleString('en')}</span>
        </div>
        <div class="text-quiet flex flex-wrap items-baseline gap-x-2 text-[11.5px]">
          <span>{one.of.length === 1 ? one.of[0]?.stream : `${one.of.length} streams`}</span>
          <span>since <Moment at={one.firstAt} {now} /></span>
          <span>last <Moment at={one.lastAt} {now} /></span>
          {#if news.isNew}<b class="text-ink">new since yesterday</b>{/if}
          {#if news.times !== null}<b class="text-ink">{timesText(news.times)} × as many as usual</b>{/if}
          <button
            class="link ml-auto"
            aria-label={`Leave out lines like: ${one.text}`}
            onclick={() => onNarrow(`not (${clauseOf(one)})`)}>leave out</button
          >
        </div>
      </li>
    {/each}
  </ul>
  {#if alike.length > few}
    <button class="link mt-1 text-[12.5px]" aria-expanded={isWhole} onclick={() => (isWhole = !isWhole)}
      >{isWhole
        ? 'Show fewer'
        : found.shapesInAll > found.shapes.length
          ? `Show the ${alike.length} most frequent`
          : `Show all ${countOf(alike.length, 'shape')}`}</button
    >
  {/if}
</section>
