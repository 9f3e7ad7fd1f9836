<script lang="ts">
  import { callApi, callForCsv, wordsOf } from '../../api';
  import Ellipsis from '@lucide/svelte/icons/ellipsis';
  import { page } from '$app/state';
  import { Popover } from '@skeletonlabs/skeleton-svelte';
  import { signalsOf, type Panel } from '$lib/core/board';
  import { cannotGive, statisticName, statistics, type Statistic } from '$lib/core/series';
  import { isPick, picksOf, steady } from '$lib/core/signal';
  import { day, duration, textFromDuration, textFromInstant, times, type Range } from '$lib/core/time';
  import { useReader } from '../../time/reader';
  import type { PanelView } from '../data/panel-view.svelte';
  import { metricOf, useBoardContext } from '../data/board-context.svelte';

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
  let said = $state('');
  let problem = $state('');
  let isOpen = $state(false);
  /** What is shown now goes to the bench, into an alarm and into the CSV. */
  const signal = $derived(signalsOf(boardContext.asShown(panel, view))[0]);
  const answer = $derived(view.data(panel.picture === 'snapshot' ? 'column 0' : 'main').answer);
  const watched = $derived(signal && steady(signal, textFromDuration(duration(answer?.step ?? 60_000))));
  const isOverTime = $derived(['lines', 'areas', 'stacked', 'bars'].includes(panel.picture));
  const comparisons = [
    ['nothing', null],
    ['1 day earlier', day],
    ['1 week earlier', times(7, day)]
  ] as const;
  /** Statistics that every pick of the signal can give. */
  const possible = $derived(
    signal
      ? statistics.filter((statistic) =>
          picksOf(signal).every(({ metric }) => {
            const known = metricOf(boardContext.metrics, metric);
            return known === undefined || cannotGive(statistic, known.shape, known.kind) === null;
          })
        )
      : []
  );
  const own = $derived(signalsOf(panel)[0]?.rows.find(isPick)?.statistic ?? 'avg');

  async function tried(what: string, work: () => Promise<void>): Promise<void> {
    said = problem = '';
    try {
      await work();
      said = what;
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      problem = `It could not be done: ${error.message}`;
    }
  }

  const copyCsv = () =>
    tried('Copied as CSV.', async () => {
      const reply = await callForCsv('/query', {
        signal,
        from: textFromInstant(range.from),
        to: textFromInstant(range.to),
        zone,
        ...(isOverTime && answer ? { cells: answer.count } : {})
      });
      if (reply.kind === 'refused') throw new Error(wordsOf(reply.problem));
      if (reply.kind === 'answered') await navigator.clipboard.writeText(reply.answer);
    });

  const savePng = () =>
    tried('Saved as PNG.', async () => {
      isOpen = false;
      const { toPng } = await import('html-to-image');
      const url = await toPng(node(), {
        pixelRatio: 2,
        filter: (part) => !(part instanceof HTMLElement && part.dataset['chrome'] !== undefined)
      });
      const link = document.createElement('a');
      link.href = url;
      link.download = `${panel.title.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'panel'}.png`;
      link.click();
    });

  /** Boards that the person may edit. */
  const editable = $derived(
    ((page.data as { boards?: readonly { id: number; title: string; may: string }[] }).boards ?? []).filter(
      ({ id, may }) => may === 'edit' && page.url.pathname !== `/boards/${id}`
    )
  );
  const addTo = (board: number) =>
    tried(`Added to ${editable.find(({ id }) => id === board)?.title ?? 'the board'}.`, async () => {
      const reply = await callApi('POST', `/boards/${board}/panels`, { body: { panel } });
      if (reply.kind === 'refused') throw new Error(wordsOf(reply.problem));
    });

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
    onOpenChange={(details: { open: boolean }) => ((isOpen = details.open), (said = problem = ''))}
    positioning={{ placement: 'bottom-end' }}
  >
    <Popover.Trigger class="align-middle" aria-label="More of {panel.title}"><Ellipsis size={15} /></Popover.Trigger>
    <Popover.Positioner class="z-30!">
      <Popover.Content class="panel w-[240px] p-1! text-[13px] shadow-none">
        {#if isOpen}
          {#if signal && boardContext.who === 'people'}
            <a class={item} href={boardContext.href(`/bench?signal=${encodeURIComponent(JSON.stringify(signal))}`)}
              >Open on the bench</a
            >
            {#if mayEdit && watched}
              <a
                class={item}
                href={boardContext.href(
                  `/alarms/new?signal=${encodeURIComponent(JSON.stringify(watched))}&title=${encodeURIComponent(panel.title)}`
                )}>Alarm on this</a
              >
            {/if}
          {/if}
          {#if signal}
            {#if panel.picture !== 'table'}
              <button class={item} onclick={() => ((view.asTable = !view.asTable), (isOpen = false))}
                >{view.asTable ? 'Show as a picture' : 'Show as a table'}</button
              >
            {/if}
            {#if boardContext.who === 'people'}<button class={item} onclick={copyCsv}>Copy as CSV</button>{/if}
          {/if}
          <button class={item} onclick={savePng}>Save as PNG</button>
          {#if signal}
            <button class={item} onclick={unlink}
              >{view.unlinked ? 'Link to the board’s range' : 'Unlink from the board’s range'}</button
            >
            {#if isOverTime || panel.picture === 'number'}
              <label class="flex items-center gap-2 px-2 py-1"
                >Compare with
                <select
                  class="field ml-auto w-auto! py-0! text-[13px]!"
                  value={view.earlier === undefined ? 'own' : String(view.earlier ?? 'null')}
                  onchange={(event) => {
                    const { value } = event.currentTarget;
                    view.earlier = value === 'own' ? undefined : value === 'null' ? null : duration(Number(value));
                  }}
                >
                  {#if 'earlier' in panel && panel.earlier}<option value="own">as set in the panel</option
                    >{:else}<option value="own">nothing</option>{/if}
                  {#each comparisons as [name, length] (name)}
                    {#if length !== null || ('earlier' in panel && panel.earlier)}
                      <option value={String(length)}>{name}</option>
                    {/if}
                  {/each}
                </select></label
              >
            {/if}
            {#if picksOf(signal).length === 1 && panel.picture !== 'snapshot'}
              <label class="flex items-center gap-2 px-2 py-1"
                >Statistic
                <select
                  class="field ml-auto w-auto! py-0! text-[13px]!"
                  value={view.statistic ?? own}
                  onchange={(event) => {
                    const chosen = event.currentTarget.value as Statistic;
                    view.statistic = chosen === own ? undefined : chosen;
                  }}
                >
                  {#each possible as statistic (statistic)}<option value={statistic}>{statisticName(statistic)}</option
                    >{/each}
                </select></label
              >
            {/if}
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
          {#if said}<p class="text-quiet px-2 py-1 text-[12px]" role="status">{said}</p>{/if}
          {#if problem}<p class="fault px-2 py-1 text-[12px]" role="alert">{problem}</p>{/if}
        {/if}
      </Popover.Content>
    </Popover.Positioner>
  </Popover>
</span>
