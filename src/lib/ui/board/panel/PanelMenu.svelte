<script lang="ts">
  import Ellipsis from '@lucide/svelte/icons/ellipsis';
  import { page } from '$app/state';
  import { Popover } from '@skeletonlabs/skeleton-svelte';
  import { signalsOf, type Panel } from '$lib/core/board';
  import { linesOf, searchBehind, steady } from '$lib/core/signal';
  import { duration, textFromDuration, type Range } from '$lib/core/time';
  import { useReader } from '../../time/reader';
  import type { PanelView } from '../data/panel-view.svelte';
  import { useBoardContext } from '../data/board-context.svelte';
  import { addToBoard, copyCsv, savePng } from './panel-actions';
  import { isOverTime } from './panel-notes';
  import PanelReading from './PanelReading.svelte';

  interface Props {
    panel: Panel;
    view: PanelView;
    range: Range;
    /** The panel's element, for its picture. */
    node: () => HTMLElement;
  }
  let { panel, view, range, node }: Props = $props();
  const boardContext = useBoardContext();
  const { mayEdit, zone } = useReader();
  let done = $state('');
  let problem = $state('');
  let isOpen = $state(false);
  /** What is shown now goes to the bench, into an alarm and into the CSV. */
  const signal = $derived(signalsOf(boardContext.asShown(panel, view))[0]);
  const answer = $derived(view.data(panel.picture === 'snapshot' ? 'column 0' : 'main').answer);
  const watched = $derived(signal && steady(signal, textFromDuration(duration(answer?.step ?? 60_000))));
  const signalText = $derived(encodeURIComponent(JSON.stringify(signal)));
  /** Boards that the person may edit. */
  const editable = $derived(
    ((page.data as { boards?: readonly { id: number; title: string; may: string }[] }).boards ?? []).filter(
      ({ id, may }) => may === 'edit' && page.url.pathname !== `/boards/${id}`
    )
  );

  async function attempt(words: string, work: () => Promise<void>): Promise<void> {
    done = problem = '';
    try {
      await work();
      done = words;
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      problem = `It could not be done: ${error.message}`;
    }
  }
  const copy = () =>
    attempt('Copied as CSV.', async () => {
      if (signal) await copyCsv(signal, range, zone, isOverTime(panel) ? answer?.count : undefined);
    });
  const save = () =>
    attempt('Saved as PNG.', () => {
      isOpen = false;
      return savePng(node(), panel.title);
    });
  const addTo = (board: number) =>
    attempt(`Added to ${editable.find(({ id }) => id === board)?.title ?? 'the board'}.`, () =>
      addToBoard(board, panel)
    );

  function unlink(): void {
    view.unlinked = !view.unlinked;
    view.own = view.unlinked ? [{ kind: 'fixed', from: range.from, to: range.to }] : [];
    isOpen = false;
  }
  const item = 'hover:bg-shallow block w-full px-2 py-1 text-left no-underline';
</script>

<span data-chrome>
  <Popover
    open={isOpen}
    onOpenChange={(details: { open: boolean }) => ((isOpen = details.open), (done = problem = ''))}
    positioning={{ placement: 'bottom-end' }}
  >
    <Popover.Trigger class="align-middle" aria-label="More of {panel.title}"><Ellipsis size={15} /></Popover.Trigger>
    <Popover.Positioner class="z-30!">
      <Popover.Content class="panel w-[240px] p-1! text-[13px] shadow-none">
        {#if isOpen}
          {#if signal && boardContext.who === 'people'}
            <a class={item} href={boardContext.href(`/bench?signal=${signalText}`)}>Open on the bench</a>
            {#each linesOf(signal) as row (row.name)}
              <a class={item} href={boardContext.href(`/logs?q=${encodeURIComponent(searchBehind(row))}`)}
                >See the lines{linesOf(signal).length > 1 ? ` of ${row.name}` : ''}</a
              >
            {/each}
            {#if watched}<a
                class={item}
                href={boardContext.href(
                  `/growth?signal=${encodeURIComponent(JSON.stringify(watched))}&title=${encodeURIComponent(panel.title)}`
                )}>Growth of this</a
              >{/if}
            {#if mayEdit && watched}
              <a
                class={item}
                href={boardContext.href(
                  `/alarms/new?signal=${encodeURIComponent(JSON.stringify(watched))}&title=${encodeURIComponent(panel.title)}`
                )}>Alarm on this</a
              >
              <a
                class={item}
                href={boardContext.href(
                  `/objectives/new?signal=${encodeURIComponent(JSON.stringify(watched))}&title=${encodeURIComponent(panel.title)}`
                )}>Promise on this</a
              >
            {/if}
          {/if}
          {#if signal}
            {#if panel.picture !== 'table'}
              <button class={item} onclick={() => ((view.asTable = !view.asTable), (isOpen = false))}
                >{view.asTable ? 'Show as a picture' : 'Show as a table'}</button
              >
            {/if}
            {#if boardContext.who === 'people'}<button class={item} onclick={copy}>Copy as CSV</button>{/if}
          {/if}
          <button class={item} onclick={save}>Save as PNG</button>
          {#if signal}
            <button class={item} onclick={unlink}
              >{view.unlinked ? 'Link to the board’s range' : 'Unlink from the board’s range'}</button
            >
            <PanelReading {panel} {view} {signal} />
          {/if}
          {#if editable.length > 0}
            <label class="flex items-center gap-2 px-2 py-1"
              >Add to
              <select
                class="field ml-auto w-[150px]! py-0! text-[13px]!"
                aria-label="Add to a board"
                value=""
                onchange={(event) => {
                  void addTo(Number(event.currentTarget.value));
                  event.currentTarget.value = '';
                }}
              >
                <option value="">a board …</option>
                {#each editable as { id, title } (id)}<option value={String(id)}>{title}</option>{/each}
              </select></label
            >
          {/if}
          {#if done}<p class="text-quiet px-2 py-1 text-[12px]" role="status">{done}</p>{/if}
          {#if problem}<p class="fault px-2 py-1 text-[12px]" role="alert">{problem}</p>{/if}
        {/if}
      </Popover.Content>
    </Popover.Positioner>
  </Popover>
</span>
