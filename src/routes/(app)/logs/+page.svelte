<script lang="ts">
  import BellPlus from '@lucide/svelte/icons/bell-plus';
  import ChartLine from '@lucide/svelte/icons/chart-line';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { untrack } from 'svelte';
  import { after, day, duration, textFromInstant } from '$lib/core/time';
  import { countOf, formOf } from '$lib/core/words/count';
  import { LogFinder } from '$lib/ui/logs/found.svelte';
  import { LineFollower } from '$lib/ui/logs/followed.svelte';
  import AlikeLines from '$lib/ui/logs/AlikeLines.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import LineTable from '$lib/ui/logs/LineTable.svelte';
  import Clauses from '$lib/ui/logs/Clauses.svelte';
  import FieldCounts from '$lib/ui/logs/FieldCounts.svelte';
  import SearchField from '$lib/ui/logs/SearchField.svelte';
  import LogBars from '$lib/ui/logs/LogBars.svelte';
  import ThisLine from '$lib/ui/logs/ThisLine.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { shownRange, withRange } from '$lib/ui/time/shown';
  import { shownRangeSearch } from '$lib/core/time';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  provideHover();
  const live = useLive();
  const { mayEdit } = useReader();
  const finder = new LogFinder();
  const follower = new LineFollower();
  /** What is searched for: as it is in the address, or all of a service. */
  const asked = $derived.by(() => {
    const service = page.url.searchParams.get('service');
    return page.url.searchParams.get('q') ?? (service === null ? '' : `service = ${service}`);
  });
  const chosen = $derived(page.url.searchParams.get('line'));
  const isLive = $derived(page.url.searchParams.has('live'));
  let typed = $state(untrack(() => asked));

  const query = $derived.by(() => {
    const search = new URLSearchParams(shownRangeSearch(shownRange()));
    search.set('q', asked);
    return search.toString();
  });
  // Another address, another search: also one that "back" leads to, or another range.
  $effect(() => {
    typed = untrack(() => asked);
    const wanted = query;
    untrack(() => finder.start(wanted));
  });
  $effect(() => () => finder.stop());
  $effect(() => {
    const wanted = new URLSearchParams({ q: asked }).toString();
    // What came before it follows, or while the connection was lost, is found by a search.
    if (isLive) untrack(() => follower.start(wanted, () => finder.start(query)));
    return () => follower.stop();
  });
  /** Whoever scrolls reads: the list stays where it is until they are back at its top. */
  let main = $state<HTMLElement>();
  const topIs = 24;
  function onScroll(): void {
    if (!follower.isFollowing || main === undefined) return;
    const offset = Math.max(main.scrollTop, window.scrollY);
    if (offset > topIs) follower.pause();
    else if (follower.isPaused) follower.goOn();
  }
  function backToTop(): void {
    main?.scrollTo({ top: 0 });
    window.scrollTo({ top: 0 });
    follower.goOn();
  }
  function setLive(wanted: boolean): void {
    const next = new URLSearchParams(page.url.searchParams);
    if (wanted) next.set('live', 'yes');
    else next.delete('live');
    void goto(`/logs?${next}`, { keepFocus: true, noScroll: true });
  }

  function search(text: string): void {
    const next = new URLSearchParams(page.url.searchParams);
    next.delete('service');
    next.delete('line');
    next.set('q', text.trim());
    if (text.trim() === asked) finder.start(query);
    else void goto(`/logs?${next}`, { keepFocus: true, noScroll: true });
  }
  const narrow = (clause: string): void => search(asked.trim() === '' ? clause : `${asked.trim()} ${clause}`);

  function choose(key: string): void {
    const next = new URLSearchParams(page.url.searchParams);
    next.set('line', key);
    void goto(`/logs?${next}`, { keepFocus: true, noScroll: true, replaceState: chosen !== null });
  }

  const found = $derived(finder.found);
  /** The range of what is shown, as the API takes it; the last hour until something is. */
  const shownFrom = $derived(found?.from ?? null);
  const shownTo = $derived(found?.to ?? null);
  const span = $derived<Record<string, string>>(
    shownFrom === null || shownTo === null
      ? {}
      : { from: textFromInstant(shownFrom), to: textFromInstant(after(shownTo, duration(1))) }
  );
  const by = $derived(page.url.searchParams.get('by') ?? '');
  function countBy(name: string): void {
    const next = new URLSearchParams(page.url.searchParams);
    if (name === '') next.delete('by');
    else next.set('by', name);
    void goto(`/logs?${next}`, { keepFocus: true, noScroll: true, replaceState: true });
  }
  /** What is listed: what came while following, above what was there. */
  const listed = $derived.by(() => {
    const known = new Set(follower.lines.map(({ key }) => key));
    const older = (found?.lines ?? []).filter(({ key }) => !known.has(key));
    if (!isLive) return older;
    return [...follower.lines, ...older].sort((a, b) => b.at - a.at || b.nanos - a.nanos).slice(0, 500);
  });
  /** The search as a signal: its lines counted, apart by what they are counted by here. */
  const signalText = (step: string): string => {
    const row = { name: 'a', lines: asked.trim(), where: [], by: by === '' ? [] : [by] };
    return encodeURIComponent(JSON.stringify({ version: 2, step, rows: [row] }));
  };
  /** Lines of shapes that are new within the hour, apart by what they say. */
  const newShapes = $derived.by(() => {
    const among = asked.trim() === '' ? '' : `(${asked.trim()}) `;
    const row = { name: 'a', lines: `${among}shape.age < 60`, where: [], by: ['shape'] };
    return encodeURIComponent(JSON.stringify({ version: 2, step: 'PT5M', rows: [row] }));
  });
  const place = $derived(finder.refused?.place ?? null);
  /** Where a search cannot be read, with what stands there. */
  const faulty = $derived(place === null ? '' : asked.slice(place[0], Math.max(place[1], place[0] + 1)));
  const seconds = $derived(found === null ? '' : (found.took / 1000).toFixed(2));
  const hasDays = $derived(found !== null && found.to - found.from > day);
  function onKey(event: KeyboardEvent): void {
    if (listed.length === 0 || chosen === null) return;
    const by = { j: 1, k: -1, ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (by === undefined || event.target instanceof HTMLInputElement) return;
    const next = listed[listed.findIndex(({ key }) => key === chosen) + by];
    if (next === undefined) return;
    event.preventDefault();
    choose(next.key);
  }
</script>

<svelte:window onkeydown={onKey} onscroll={onScroll} />
<svelte:head><title>Logs · Bussola</title></svelte:head>
<main
  class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible"
  bind:this={main}
  onscroll={onScroll}
>
  <div class="mb-3 flex items-baseline gap-2">
    <h1>{found === null ? 'Logs' : countOf(found.count, 'line')}</h1>
    <span class="text-quiet text-[14px]" role="status"
      >{#if finder.isRunning}searching{:else if found !== null && asked.trim() !== ''}{formOf(
          found.count,
          'matches',
          'match'
        )} the search{/if}</span
    >
    <span class="ml-auto flex items-center gap-2">
      <a class="btn flex items-center gap-1" href={withRange(`/bench?signal=${signalText('auto')}`)}
        ><ChartLine size={13} />Chart this</a
      >
      {#if mayEdit}<a class="btn flex items-center gap-1" href={withRange(`/alarms/new?signal=${signalText('PT5M')}`)}
          ><BellPlus size={13} />Alarm on this</a
        >{/if}
      <button class={['btn', isLive && 'btn-main']} aria-pressed={isLive} onclick={() => setLive(!isLive)}
        >Follow live</button
      >
    </span>
  </div>
  <form
    class="mb-2.5 flex items-center gap-2"
    aria-label="Search lines"
    onsubmit={(event) => {
      event.preventDefault();
      search(typed);
    }}
  >
    <SearchField
      bind:value={typed}
      {span}
      isFaulty={finder.refused !== null}
      describedBy="search-problem"
      onSearch={() => search(typed)}
    >
      {#snippet beside()}
        {#if found !== null}<span class="num text-quiet text-[12px] whitespace-nowrap max-md:hidden"
            >{countOf(found.looked, 'line')} looked at in {seconds} s</span
          >{/if}
      {/snippet}
    </SearchField>
    {#if finder.isRunning}<button type="button" class="btn" onclick={() => finder.stop()}>Stop</button>
    {:else}<button class="btn">Search</button>{/if}
  </form>
  <p id="search-problem" class="text-[13px]" role="alert">
    {#if finder.refused !== null}{finder.refused.message}
      {#if faulty !== ''}It is at <code class="num border-critical border-b-2">{faulty}</code>.{/if}
      {finder.refused.remedy}
    {:else if finder.hasFailed}The lines could not be searched: Bussola did not answer. Search again in a moment.{/if}
  </p>
  <Clauses text={asked} onSearch={search} />
  {#if isLive}
    <p class="text-quiet sticky top-0 z-10 mb-2 text-[13px]" role="status" data-testid="following">
      {#if follower.refused !== null}{follower.refused.message} {follower.refused.remedy}
      {:else if follower.isLost}The connection is lost; it is being made again.
      {:else if follower.isPaused}<button class="btn btn-main" onclick={backToTop}
          >{follower.held.length === 0 ? 'Go on' : `Show ${countOf(follower.held.length, 'new line')}`}</button
        >{:else if !follower.isListening}Beginning to follow …{:else}New lines come in at the top.{/if}{#if follower.skipped > 0}<span
          data-testid="skipped"
          >{` ${countOf(follower.skipped, 'line')} matched as well and ${formOf(follower.skipped, 'was', 'were')} skipped: more came than can be shown.`}</span
        >{/if}
    </p>
  {/if}
  <div class="flex gap-2.5 max-md:flex-col">
    <div class="min-w-0 flex-1">
      {#if found !== null && listed.length > 0}
        {#if !isLive}
          <section class="panel mb-2.5" aria-label="Lines by severity">
            <header><h2>Lines by severity</h2></header>
            <LogBars {found} />
          </section>
        {/if}
        <section class="panel mb-2.5 px-0! py-1!" aria-label="Lines">
          <LineTable lines={listed} {chosen} {hasDays} onChoose={choose} />
          {#if !isLive && found.count > found.lines.length}<p class="text-quiet px-3 py-1.5 text-[12px]">
              The newest {found.lines.length} of {found.count.toLocaleString('en')}. Show a shorter range or search for
              more to see others.
            </p>{/if}
        </section>
      {:else if found !== null && !finder.isRunning && finder.refused === null}
        <section class="panel" aria-label="Lines">
          {#if !data.hasLines}
            <p class="text-[13px]">
              No lines have arrived yet. Programs send them by OTLP to <code class="num">/otlp/v1/logs</code>, or as
              JSON, one a line, to
              <code class="num">/api/v1/receive/lines</code>, with a key that may send logs.
              <a class="link" href="/receive">Make a key</a>
            </p>
          {:else}
            <p class="text-[13px]">
              Nothing of the shown range matches.
              {#if asked.trim() !== ''}<a class="link" href={withRange('/logs')}>Show all lines</a> or show a longer range.
              {:else}Show a longer range to look farther back.{/if}
            </p>
          {/if}
        </section>
      {/if}
    </div>
    {#if chosen !== null || (found !== null && found.shapes.length > 0)}
      <aside class="w-[336px] shrink-0 max-md:w-full" aria-label="About the lines">
        {#if found !== null && found.shapes.length > 0}<AlikeLines
            {found}
            now={live.now}
            onNarrow={narrow}
            alarmHref={mayEdit ? withRange(`/alarms/new?signal=${newShapes}`) : null}
          />{/if}
        {#if found !== null}<FieldCounts search={asked} {span} {by} onBy={countBy} onNarrow={narrow} />{/if}
        {#if chosen !== null}<ThisLine line={chosen} onNarrow={narrow} onSearch={search} onChoose={choose} />{/if}
      </aside>
    {/if}
  </div>
</main>
