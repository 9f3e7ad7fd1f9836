<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { duration, peopleDuration, peopleMoment } from '$lib/core/time';
  import BoardSheet from '$lib/ui/board/sheet/BoardSheet.svelte';
  import { PanelViews } from '$lib/ui/board/data/panel-view.svelte';
  import { followSystem, provideTheme, Theme } from '$lib/ui/chart/theme.svelte';
  import Rose from '$lib/ui/helm/Rose.svelte';
  import { Live, provideLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { lengthSaid } from '$lib/ui/time/shown';
  import { provideReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = provideLive(new Live(...untrack(() => [data.now, data.version] as const)));
  const theme = provideTheme(new Theme());
  theme.night = untrack(() => data.night ?? false);
  followSystem(
    theme,
    untrack(() => data.night)
  );
  const dates = untrack(() => data.dates);
  provideReader({ zone: dates.zone, dates, mayEdit: false, mayAdminister: false, personId: 0, teams: [] });
  $effect(() => live.open());
  useRefresh(live, ['alarm', 'board'], 'bussola:board');

  /** How long each board is shown. */
  const every = $derived(Math.max(5_000, lengthSaid('every') ?? 30_000));
  let at = $state(0);
  let isPaused = $state(false);
  const shown = $derived(data.boards[at % data.boards.length]);
  onMount(() => {
    const timer = setInterval(() => {
      if (!isPaused) at = (at + 1) % data.boards.length;
    }, every);
    return () => clearInterval(timer);
  });
  const views = new Map<number, PanelViews>();
  function viewsOf(id: number): PanelViews {
    const known = views.get(id) ?? new PanelViews();
    views.set(id, known);
    return known;
  }
  const age = $derived(data.newest === null ? null : Math.max(0, live.now - data.newest));

  function onKey(event: KeyboardEvent): void {
    if (event.key === 'Escape') void goto(shown ? `/boards/${shown.board.id}` : '/boards');
    else if (event.key === 'ArrowRight') at = (at + 1) % data.boards.length;
    else if (event.key === 'ArrowLeft') at = (at + data.boards.length - 1) % data.boards.length;
    else if (event.key === ' ') isPaused = !isPaused;
    else return;
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={onKey} />
<svelte:head><title>Wall · Bussola</title></svelte:head>
{#if shown}
  <div class="flex h-full flex-col">
    <header class="border-strong bg-panel flex h-11 shrink-0 items-center gap-3 border-b px-4">
      <Rose size={22} />
      <h1>{shown.board.title}</h1>
      <span class={['text-[13px]', data.raised > 0 ? 'text-major font-semibold' : 'text-quiet']}
        >{data.raised > 0 ? `${data.raised} raised` : 'nothing raised'}</span
      >
      {#if !live.connected}
        <b class="bg-major text-panel ml-auto px-2 py-0.5" role="alert"
          >Connection lost: what is shown is of {peopleMoment(live.now, live.now, dates)}</b
        >
      {:else if age !== null}
        <span class="num text-quiet ml-auto">newest {peopleDuration(duration(age))} old</span>
      {/if}
      <b class="num">{peopleMoment(live.now, live.now, dates)}</b>
      {#if data.boards.length > 1}
        <span class="text-quiet num"
          >{(at % data.boards.length) + 1} of {data.boards.length}{isPaused ? ', paused' : ''}</span
        >
      {/if}
    </header>
    <main class="@container min-h-0 flex-1 overflow-y-auto px-3 py-2">
      {#key shown.board.id}
        <BoardSheet
          board={shown.board}
          id={shown.board.id}
          metrics={shown.metrics}
          things={shown.things}
          onWall
          views={viewsOf(shown.board.id)}
        />
      {/key}
    </main>
  </div>
{/if}
