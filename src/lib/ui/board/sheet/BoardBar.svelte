<script lang="ts">
  import UsedBy from '../../forms/UsedBy.svelte';
  import { callApi } from '../../api';
  import History from '@lucide/svelte/icons/history';
  import Plus from '@lucide/svelte/icons/plus';
  import Redo from '@lucide/svelte/icons/redo-2';
  import Undo from '@lucide/svelte/icons/undo-2';
  import Star from '@lucide/svelte/icons/star';
  import { enhance } from '$app/forms';
  import { invalidate } from '$app/navigation';
  import { withRange } from '../../time/shown';
  import { refreshes } from '$lib/core/board';
  import { durationFromText, spokenDuration, type Instant } from '$lib/core/time';
  import { openingRanges, spokenRange, withOwn } from '../panel/opening-ranges';
  import { useLive } from '../../live/live.svelte';
  import Moment from '../../time/Moment.svelte';
  import type { BoardEditor } from '../edit/editor.svelte';
  import type { Saving } from '../edit/board-saver';
  import type { Visitor } from './presence.svelte';

  interface Props {
    id: number;
    editor: BoardEditor;
    mayEdit: boolean;
    /** Whether the person may remove and share it. */
    mayGovern: boolean;
    isFavourite: boolean;
    sharing: { readonly reach: 'private' | 'workspace'; readonly ownerName: string | null };
    editing: boolean;
    onShare: () => void;
    onCopy: () => void;
    others: readonly Visitor[];
    onEditing: (editing: boolean) => void | Promise<void>;
    onAdd: () => void;
    onSection: () => void;
    onHistory: () => void;
  }
  let {
    id,
    editor,
    mayEdit,
    mayGovern,
    isFavourite,
    sharing,
    editing,
    others,
    onShare,
    onCopy,
    onEditing,
    onAdd,
    onSection,
    onHistory
  }: Props = $props();
  const live = useLive();
  let doubtful = $state(false);
  let chosen = $state<boolean | null>(null);
  const favourite = $derived(chosen ?? isFavourite);

  async function toggleFavourite(): Promise<void> {
    const to = !favourite;
    const reply = await callApi('PUT', `/boards/${id}/favourite`, { body: { favourite: to } });
    if (reply.kind !== 'answered') return; // the star stays as it is
    chosen = to;
    await invalidate('bussola:overview');
  }
  const board = $derived(editor.board);
  const words: Readonly<Record<Saving, string>> = {
    saved: 'Saved',
    unsaved: 'Saving …',
    saving: 'Saving …',
    refused: 'Not saved',
    waiting: 'Waiting for the connection'
  };
  const panelTitle = (id: string | null) => board.panels.find((panel) => panel.id === id)?.title;
</script>

<!-- Nothing here may move by itself: what comes and goes has its room, or stands below. -->
<div class="mb-1 flex flex-wrap items-center gap-x-3 gap-y-1.5 @[900px]:flex-nowrap">
  {#if editing}
    <input
      class="field max-w-md min-w-[180px] flex-1 px-1! text-[20px]! font-bold"
      aria-label="Title of the board"
      maxlength="120"
      value={board.title}
      onchange={(event) => editor.change({ ...board, title: event.currentTarget.value })}
    />
    <span class="text-quiet w-[11.5rem] shrink-0 text-[13px] whitespace-nowrap" role="status"
      >{words[editor.standing.saving]}</span
    >
  {:else}
    <h1>{board.title}</h1>
    <span class="text-quiet text-[13px]"
      >{sharing.reach === 'private' ? `private, of ${sharing.ownerName ?? 'nobody'}` : 'shared with everyone'}, changed <Moment
        at={editor.standing.changedAt as Instant}
        now={live.now}
      /> by {editor.standing.changedBy}</span
    >
  {/if}
  <span class="ml-auto flex shrink-0 flex-wrap items-center gap-1.5">
    {#if editing}
      <button
        class="btn px-1.5!"
        aria-label="Undo"
        title="Undo (Ctrl+Z)"
        disabled={!editor.standing.mayUndo}
        onclick={() => editor.undo()}><Undo size={15} /></button
      >
      <button
        class="btn px-1.5!"
        aria-label="Redo"
        title="Redo (Ctrl+Shift+Z)"
        disabled={!editor.standing.mayRedo}
        onclick={() => editor.redo()}><Redo size={15} /></button
      >
      <button class="btn flex items-center gap-1" onclick={onHistory}><History size={14} />History</button>
      <button class="btn" onclick={onSection}>Add a section</button>
      <button class="btn flex items-center gap-1" onclick={onAdd}><Plus size={14} />Add a panel</button>
      {#if doubtful}
        <span class="text-[13px]"><UsedBy things={[{ kind: 'board', id }]} /></span>
        <form method="post" action="?/remove" use:enhance><button class="btn">Remove the board</button></form>
        <button class="btn" onclick={() => (doubtful = false)}>Cancel</button>
      {:else if mayGovern}<button class="btn" onclick={() => (doubtful = true)}>Remove…</button>{/if}
      <button class="btn btn-main" onclick={() => onEditing(false)}>Done</button>
    {:else}
      <button
        class="btn px-1.5!"
        aria-pressed={favourite}
        aria-label="Favourite"
        title={favourite ? 'Remove from favourites' : 'Add to favourites'}
        onclick={toggleFavourite}><Star size={15} fill={favourite ? 'currentColor' : 'none'} /></button
      >
      <a class="btn" href={withRange(`/wall?boards=${id}`)}>Wall view</a>
      <a class="btn" href={withRange(`/boards/${id}/file`)}>File</a>
      <button class="btn" onclick={onCopy}>Make a copy</button>
    {/if}
    {#if !editing && mayEdit}
      {#if mayGovern}<button class="btn" onclick={onShare}>Share</button>{/if}
      <button class="btn btn-main" onclick={() => onEditing(true)}>Edit <kbd class="text-panel!">e</kbd></button>
    {/if}
  </span>
</div>
<div class="mb-2 flex min-h-[20px] flex-wrap items-baseline gap-x-3 text-[13px]">
  {#if editing}
    <input
      class="field max-w-2xl flex-1 border-transparent! bg-transparent! px-1! text-[13px]! hover:border-[var(--edge)]!"
      aria-label="What the board is for"
      placeholder="One sentence on what it is for"
      maxlength="400"
      value={board.about ?? ''}
      onchange={(event) => editor.change({ ...board, about: event.currentTarget.value.trim() || undefined })}
    />
    <span class="text-quiet whitespace-nowrap"
      >Opens with
      <select
        class="part"
        aria-label="Range it opens with"
        value={board.range ?? ''}
        onchange={(event) => editor.change({ ...board, range: event.currentTarget.value || undefined })}
      >
        {#each withOwn(openingRanges, board.range) as range (range)}<option value={range}>{spokenRange(range)}</option
          >{/each}
      </select>, refreshed
      <select
        class="part"
        aria-label="How often it is refreshed"
        value={board.refresh ?? ''}
        onchange={(event) =>
          editor.change({ ...board, refresh: refreshes.find((one) => one === event.currentTarget.value) })}
      >
        <option value="">with every sample</option>
        {#each refreshes as every (every)}<option value={every}
            >{every === 'off' ? 'by hand only' : `every ${spokenDuration(durationFromText(every))}`}</option
          >{/each}
      </select></span
    >
  {:else if board.about}<p class="text-quiet">{board.about}</p>{/if}
  <span class="ml-auto flex flex-wrap gap-x-3">
    {#each others as { name, editing: edits, panel } (name)}
      <span class="text-note" role="status"
        >{name} {edits ? `is changing ${panelTitle(panel) ?? 'this board'}` : 'is here'}</span
      >
    {/each}
  </span>
</div>
{#if editor.standing.problem}<p class="fault mb-2 text-[13px]" role="alert">{editor.standing.problem}</p>{/if}
{#if editor.standing.said}<p class="mb-2 text-[13px]" role="status">{editor.standing.said}</p>{/if}
