<script lang="ts">
  import { enhance } from '$app/forms';
  import { goto, invalidate } from '$app/navigation';
  import { page } from '$app/state';
  import { untrack } from 'svelte';
  import type { Panel } from '$lib/core/board';
  import { asksFor, picksOf, type MetricWords, type Signal } from '$lib/core/signal';
  import { resolveRange } from '$lib/core/time';
  import LinePanel from '$lib/ui/board/LinePanel.svelte';
  import { BoardData, PanelData } from '$lib/ui/board/panel-data.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import ResourceMargin from '$lib/ui/margin/ResourceMargin.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { shownRange, withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit, zone } = useReader();
  provideHover();
  const together = new BoardData(zone);
  const held = new Map<string, PanelData>();
  const dataOf = (id: string) => {
    const known = held.get(id) ?? new PanelData(zone);
    held.set(id, known);
    return known;
  };
  const board = $derived(data.board);
  const shown = $derived(shownRange());
  const opened = $derived(Number(page.url.searchParams.get('resource')) || null);
  let problem = $state('');
  /** The panel that was taken away last, to be put back. */
  let removed = $state.raw<Panel | null>(null);
  let doubtful = $state(false);

  const wordsOf = (metric: string): (MetricWords & { samplingMs: number }) | undefined =>
    (Object.hasOwn(data.metrics, metric) ? data.metrics[metric] : undefined) ??
    Object.values(data.metrics).find(({ name }) => asksFor(metric, name));
  const samplingOf = (signal: Signal) =>
    Math.max(60_000, ...picksOf(signal).map(({ metric }) => wordsOf(metric)?.samplingMs ?? 0));

  function ask(): void {
    const span = resolveRange(
      shown,
      untrack(() => live.now)
    );
    const panels = board.panels.map(({ id, signal }) => ({ data: dataOf(id), signal }));
    void together.ask(panels, span, 400);
  }
  $effect(ask);
  $effect(() => live.on(['samples'], () => shown.kind === 'live' && ask()));
  $effect(() => () => together.stop());

  function open(resource: number | null): void {
    const search = new URLSearchParams(page.url.search);
    if (resource === null) search.delete('resource');
    else search.set('resource', String(resource));
    void goto(`?${search.toString()}`, { keepFocus: true, noScroll: true });
  }

  /** Writes the board as it is to be; whoever changed it meanwhile is not overwritten. */
  async function change(to: { title?: string; panels?: readonly Panel[] }): Promise<boolean> {
    const { id, title, panels, version } = board;
    const response = await fetch(`/api/v1/boards/${id}`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ title, panels, version, ...to })
    });
    if (response.ok) problem = '';
    else {
      const told = (await response.json()) as { message: string; remedy?: string; problems?: { message: string }[] };
      problem = told.problems?.[0]?.message ?? [told.message, told.remedy].filter(Boolean).join(' ');
    }
    await invalidate('bussola:board');
    return response.ok;
  }

  async function takeAway(panel: Panel): Promise<void> {
    if (await change({ panels: board.panels.filter(({ id }) => id !== panel.id) })) removed = panel;
  }

  async function putBack(): Promise<void> {
    if (removed && (await change({ panels: [...board.panels, removed] }))) removed = null;
  }
</script>

<svelte:head><title>{board.title} · Bussola</title></svelte:head>
<main class="@container min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    {#if mayEdit}
      <input
        class="field max-w-md border-transparent! bg-transparent! px-1! text-[20px]! font-bold hover:border-[var(--edge)]!"
        aria-label="Title of the board"
        value={board.title}
        onchange={async (event) => {
          const field = event.currentTarget;
          await change({ title: field.value });
          field.value = data.board.title;
        }}
      />
    {:else}<h1>{board.title}</h1>{/if}
    <span class="text-quiet">changed <Moment at={board.changedAt} now={live.now} /> by {board.changedBy}</span>
    {#if mayEdit}
      <span class="ml-auto flex gap-2">
        {#if doubtful}
          <form method="post" action="?/remove" use:enhance><button class="btn">Remove the board</button></form>
          <button class="btn" onclick={() => (doubtful = false)}>Keep it</button>
        {:else}<button class="btn" onclick={() => (doubtful = true)}>Remove …</button>{/if}
        <a class="btn btn-main" href={withRange('/bench')}>Compose a panel</a>
      </span>
    {/if}
  </div>
  {#if problem}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  {#if removed}
    <p class="mb-2 text-[13px]" role="status">
      “{removed.title}” was taken away. <button class="link" onclick={putBack}>Put it back</button>
    </p>
  {/if}
  {#if board.panels.length === 0}
    <div class="panel items-start gap-2 p-6!">
      <h2>Nothing is on this board yet.</h2>
      <p class="text-quiet">Compose a signal on the bench and send it here.</p>
      <a class="btn btn-main" href={withRange('/bench')}>Open the bench</a>
    </div>
  {:else}
    <div class="board grid gap-2.5">
      {#each board.panels as panel (panel.id)}
        <div
          class="min-w-0"
          style:--column="{panel.place.x + 1} / span {panel.place.w}"
          style:--row="{panel.place.y + 1} / span {panel.place.h}"
        >
          <LinePanel
            title={panel.title}
            signal={panel.signal}
            words={wordsOf}
            samplingMs={samplingOf(panel.signal)}
            data={dataOf(panel.id)}
            height={130}
            rows={3}
            onResource={(id: number) => open(id)}
            onRemove={mayEdit ? () => void takeAway(panel) : null}
          />
        </div>
      {/each}
    </div>
  {/if}
</main>
{#if opened !== null}<ResourceMargin resourceId={opened} onClose={() => open(null)} />{/if}

<style>
  .board {
    grid-template-columns: repeat(12, minmax(0, 1fr));
    grid-auto-rows: minmax(56px, auto);
  }
  .board > div {
    grid-column: var(--column);
    grid-row: var(--row);
  }
  @container (max-width: 860px) {
    .board > div {
      grid-column: 1 / -1;
      grid-row: auto;
    }
  }
</style>
