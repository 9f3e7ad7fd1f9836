<script lang="ts">
  import { callApi, callForCsv, answerOrNull, wordsOf } from '../api';
  import { Popover } from '@skeletonlabs/skeleton-svelte';
  import { goto, invalidateAll } from '$app/navigation';
  import BellPlus from '@lucide/svelte/icons/bell-plus';
  import Copy from '@lucide/svelte/icons/copy';
  import Undo from '@lucide/svelte/icons/undo-2';
  import type { QueryAnswer } from '$lib/core/series';
  import { steady, type Signal } from '$lib/core/signal';
  import { duration, resolveRange, textFromDuration, textFromInstant, type ShownRange } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import { withRange } from '../time/shown';
  import { tableOf } from './as-table';
  import SendToBoard from './SendToBoard.svelte';

  interface Props {
    signal: Signal;
    answer: QueryAnswer | null;
    kept: { id: number; name: string } | null;
    range: ShownRange;
    /** The alarm that the signal is composed for. */
    alarm: { id: number; name: string } | null;
    /** The panel of a board that the signal is composed for. */
    panel: { board: number; id: string; title: string } | null;
    boards: readonly { id: number; title: string }[];
    /** The signal in words. */
    sentence: string;
    mayUndo: boolean;
    onUndo: () => void;
  }
  let { signal, answer, kept, range, alarm, panel, boards, sentence, mayUndo, onUndo }: Props = $props();
  const live = useLive();
  const { mayEdit, zone } = useReader();
  /** What is to be named. */
  let naming = $state<'signal' | 'metric' | null>(null);
  let name = $state('');
  let done = $state('');
  let problem = $state('');
  /** What an alarm would watch. */
  const watched = $derived(steady(signal, textFromDuration(duration(answer?.step ?? 60_000))));

  function bodyOf(): string {
    const { from, to } = resolveRange(range, live.now);
    return JSON.stringify({ signal, from: textFromInstant(from), to: textFromInstant(to), zone });
  }

  async function copy(what: 'table' | 'CSV' | 'API call'): Promise<void> {
    problem = '';
    try {
      await navigator.clipboard.writeText(await textOf(what));
      done = `Copied as ${what}.`;
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      done = '';
      problem = `It could not be copied: ${error.message}`;
    }
  }

  async function textOf(what: 'table' | 'CSV' | 'API call'): Promise<string> {
    if (what === 'table') return answer ? tableOf(answer, zone) : '';
    if (what === 'API call')
      return `curl -X POST ${location.origin}/api/v1/query -H 'content-type: application/json' -d '${bodyOf().replaceAll("'", String.raw`'\''`)}'`;
    const reply = await callForCsv('/query', JSON.parse(bodyOf()) as object);
    if (reply.kind === 'refused') throw new Error(wordsOf(reply.problem));
    return answerOrNull(reply) ?? '';
  }

  /** Puts the signal in the panel that it was opened from, and goes back there. */
  async function putBack({ board, id }: { board: number; id: string }): Promise<void> {
    if ((await sent(`/boards/${board}/panels/${id}`, 'PUT', { signal })) !== null)
      await goto(withRange(`/boards/${board}?edit`));
  }

  async function derive(under: string): Promise<void> {
    problem = '';
    const reply = await sent('/derived', 'POST', { name: under, signal });
    if (reply === null) return;
    naming = null;
    await goto(withRange('/derived'));
  }

  /** Sends something; null when it was refused, which is shown then. */
  async function sent(path: string, method: 'POST' | 'PUT', body: object): Promise<{ id?: number } | null> {
    const reply = await callApi<{ id?: number }>(method, path, { body });
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    return answerOrNull(reply);
  }

  async function keep(id: number | null, under: string): Promise<void> {
    problem = '';
    const reply = await sent(id === null ? '/signals' : `/signals/${id}`, id === null ? 'POST' : 'PUT', {
      name: under,
      signal
    });
    if (reply === null) return;
    naming = null;
    done = `Saved as “${under}”.`;
    if (id === null) await goto(withRange(`/bench?kept=${reply.id}`), { replaceState: true });
    else await invalidateAll();
  }
</script>

<div class="flex flex-col items-end gap-1">
  <div class="flex flex-wrap items-center gap-2">
    <button class="btn flex items-center gap-1" disabled={!mayUndo} onclick={onUndo}><Undo size={13} />Undo</button>
    <Popover positioning={{ placement: 'bottom-end' }}>
      <Popover.Trigger class="btn flex items-center gap-1"><Copy size={13} />Copy</Popover.Trigger>
      <Popover.Positioner class="z-30!">
        <Popover.Content class="panel p-1! shadow-none">
          {#each ['table', 'CSV', 'API call'] as const as what (what)}
            <button class="hover:bg-shallow px-3 py-1 text-left text-[13px]" onclick={() => copy(what)}
              >as {what}</button
            >
          {/each}
        </Popover.Content>
      </Popover.Positioner>
    </Popover>
    {#if mayEdit}
      {#if panel}
        <button class="btn btn-main" onclick={() => void putBack(panel)}>Use it for “{panel.title}”</button>
      {/if}
      {#if watched && alarm}
        <a
          class="btn btn-main flex items-center gap-1"
          href={withRange(`/alarms/${alarm.id}?signal=${encodeURIComponent(JSON.stringify(watched))}`)}
          ><BellPlus size={13} />Use it for “{alarm.name}”</a
        >
      {:else if watched}
        <a
          class="btn flex items-center gap-1"
          href={withRange(`/alarms/new?signal=${encodeURIComponent(JSON.stringify(watched))}`)}
          ><BellPlus size={13} />Alarm on this</a
        >
      {:else}
        <button
          class="btn flex items-center gap-1"
          disabled
          title="An alarm watches one row: draw only that one, in cells of at most half a day."
          ><BellPlus size={13} />Alarm on this</button
        >
      {/if}
      {#if answer !== null}<a
          class="btn"
          href={withRange(`/growth?signal=${encodeURIComponent(JSON.stringify(signal))}`)}>Growth of this</a
        >{/if}
      {#if kept}
        <button class="btn" onclick={() => keep(kept.id, kept.name)}>Save “{kept.name}”</button>
      {/if}
      <SendToBoard {signal} {boards} {sentence} {problem} {sent} />
      <button
        class="btn"
        aria-expanded={naming === 'metric'}
        onclick={() => (naming = naming === 'metric' ? null : 'metric')}>Store as a metric</button
      >
      <button
        class="btn btn-main"
        aria-expanded={naming === 'signal'}
        onclick={() => (naming = naming === 'signal' ? null : 'signal')}
        >{kept ? 'Save as another' : 'Save as a signal'}</button
      >
    {/if}
  </div>
  {#if naming}
    <form
      class="flex items-center gap-2"
      onsubmit={(event) => {
        event.preventDefault();
        void (naming === 'metric' ? derive(name) : keep(null, name));
      }}
    >
      <input
        class="field w-[280px]!"
        placeholder="Name of the {naming}"
        aria-label="Name of the {naming}"
        bind:value={name}
        {@attach (field: HTMLInputElement) => field.focus()}
        required
      />
      <button class="btn btn-main">{naming === 'metric' ? 'Store' : 'Save'}</button>
    </form>
  {/if}
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{:else if done}<p
      class="text-quiet text-[13px]"
      role="status"
    >
      {done}
    </p>{/if}
</div>
