<script lang="ts">
  import LayoutDashboard from '@lucide/svelte/icons/layout-dashboard';
  import { Popover } from '@skeletonlabs/skeleton-svelte';
  import { goto } from '$app/navigation';
  import type { Signal } from '$lib/core/signal';
  import { withRange } from '../time/shown';

  interface Props {
    signal: Signal;
    boards: readonly { id: number; title: string }[];
    /** The signal in words: the panel's title until a person gives another. */
    sentence: string;
    /** Why what was sent last was refused; empty when it was not. */
    problem: string;
    /** Sends something; null when it was refused, which is said then. */
    sent: (path: string, method: 'POST' | 'PUT', body: object) => Promise<{ id?: number } | null>;
  }
  let { signal, boards, sentence, problem, sent }: Props = $props();
  let title = $state('');
  /** The id of a board, or `new`. */
  let chosen = $state('new');
  let newTitle = $state('');
  let isOpen = $state(false);

  function open(details: { open: boolean }): void {
    isOpen = details.open;
    if (!isOpen) return;
    title = sentence.split(',')[0]?.slice(0, 120) ?? '';
    chosen = String(boards[0]?.id ?? 'new');
  }

  async function send(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const panel = { title, signal };
    const reply =
      chosen === 'new'
        ? await sent('/boards', 'POST', { title: newTitle, panels: [panel] })
        : await sent(`/boards/${chosen}/panels`, 'POST', panel);
    if (reply === null) return; // what was typed stays, with the reason beside it
    isOpen = false;
    await goto(withRange(`/boards/${reply.id ?? chosen}`));
  }
</script>

<Popover open={isOpen} onOpenChange={open} positioning={{ placement: 'bottom-end' }}>
  <Popover.Trigger class="btn flex items-center gap-1"><LayoutDashboard size={13} />Send to a board</Popover.Trigger>
  <Popover.Positioner class="z-30!">
    <Popover.Content class="panel w-[320px] shadow-none">
      <form class="flex flex-col gap-2 text-[13px]" onsubmit={send}>
        <label class="flex flex-col gap-1"
          >Title of the panel<input class="field" bind:value={title} required maxlength="120" /></label
        >
        <label class="flex flex-col gap-1"
          >Board
          <select class="field" aria-label="Board" bind:value={chosen}>
            {#each boards as board (board.id)}<option value={String(board.id)}>{board.title}</option>{/each}
            <option value="new">a new one …</option>
          </select>
        </label>
        {#if chosen === 'new'}
          <label class="flex flex-col gap-1"
            >Title of the new board<input class="field" bind:value={newTitle} required maxlength="120" /></label
          >
        {/if}
        {#if problem}<p class="fault" role="alert">{problem}</p>{/if}
        <button class="btn btn-main self-start">Send it there</button>
      </form>
    </Popover.Content>
  </Popover.Positioner>
</Popover>
