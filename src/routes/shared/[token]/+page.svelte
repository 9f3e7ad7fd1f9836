<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { invalidate } from '$app/navigation';
  import BoardSheet from '$lib/ui/board/sheet/BoardSheet.svelte';
  import { PanelViews } from '$lib/ui/board/data/panel-view.svelte';
  import { followSystem, provideTheme, Theme } from '$lib/ui/chart/theme.svelte';
  import RangeControl from '$lib/ui/helm/RangeControl.svelte';
  import Rose from '$lib/ui/helm/Rose.svelte';
  import { Live, provideLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { provideReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  /** How often it is read again. */
  const everyMs = 60_000;
  let { data }: PageProps = $props();
  const live = provideLive(new Live(...untrack(() => [data.now, data.version] as const)));
  const theme = provideTheme(new Theme());
  theme.night = untrack(() => data.night ?? false);
  followSystem(
    theme,
    untrack(() => data.night)
  );
  provideReader({
    zone: untrack(() => data.board.zone ?? 'UTC'),
    dates: { zone: untrack(() => data.board.zone ?? 'UTC'), locale: 'en' },
    mayEdit: false,
    mayAdminister: false,
    personId: 0,
    teams: []
  });
  const views = new PanelViews();
  const link = $derived({ token: data.token, choices: data.choices, every: everyMs });
  $effect(() => {
    live.now = data.now;
  });
  onMount(() => {
    const timer = setInterval(() => void invalidate('bussola:board').catch(() => (live.connected = false)), everyMs);
    return () => clearInterval(timer);
  });
</script>

<svelte:head><title>{data.board.title} · Bussola</title></svelte:head>
<div class="flex h-full flex-col">
  <header class="border-strong bg-panel flex h-12 shrink-0 items-center gap-3 border-b px-4">
    <Rose />
    <h1>{data.board.title}</h1>
    <span class="text-quiet text-[13px] max-md:hidden"
      >to read only, until <Moment at={data.expiresAt} now={live.now} /></span
    >
    <span class="ml-auto"><RangeControl /></span>
    {#if !live.connected}<span class="text-major font-semibold" role="status">Connection lost, trying again</span>{/if}
  </header>
  <main class="@container min-h-0 flex-1 overflow-y-auto px-[18px] py-3.5">
    {#if data.board.about}<p class="text-quiet mb-2 text-[13px]">{data.board.about}</p>{/if}
    <BoardSheet board={data.board} metrics={data.metrics} things={data.things} {link} {views} />
  </main>
</div>
