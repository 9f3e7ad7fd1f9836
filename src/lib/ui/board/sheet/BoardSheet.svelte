<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import { page } from '$app/state';
  import {
    bySection,
    choicesFrom,
    mapSignals,
    pickedSignal,
    readAs,
    signalsOf,
    withChoice,
    type Board,
    type Choices,
    type Panel,
    type Picker,
    type GridArea
  } from '$lib/core/board';
  import { picksOf, signalSchema } from '$lib/core/signal';
  import {
    exactMoment,
    overlap,
    resolveRange,
    saysRange,
    shownRangeFrom,
    spokenDuration,
    usualOf,
    type Instant,
    type ShownRange
  } from '$lib/core/time';
  import type { MarkFlag } from '../../chart/picture';
  import PutMark from '../../mark/PutMark.svelte';
  import { MarksData } from '../../mark/marks-data.svelte';
  import { provideHover } from '../../chart/hover.svelte';
  import { useLive } from '../../live/live.svelte';
  import { useReader } from '../../time/reader';
  import { setParameters, showSearch } from '../../address';
  import { isOfTime, lengthSaid, rangeWords, refreshOf } from '../../time/shown';
  import { BoardData, type PanelQuery } from '../data/panel-data.svelte';
  import PanelFrame from '../panel/PanelFrame.svelte';
  import type { PanelView, PanelViews } from '../data/panel-view.svelte';
  import PickerBar from '../pickers/PickerBar.svelte';
  import { queriesOfPanel } from '../data/panel-queries';
  import ReadGrid from './ReadGrid.svelte';
  import { Rereading } from '../data/rereading';
  import { later } from '../edit/later';
  import { arrivalOf, labelsOf, provideScene, type BoardThings, type BoardContext } from '../data/board-context.svelte';

  interface Props {
    board: Board;
    metrics: BoardContext['metrics'];
    things: BoardThings;
    /** The kept board that it is; null for a ready one. */
    id?: number | null;
    /** The link by which it is seen, with what is picked there and how often it is read again, in ms; null for people of the workspace. */
    link?: { readonly token: string; readonly choices: Choices; readonly every: number } | null;
    /** Whether it hangs on a wall, where nobody clicks. */
    onWall?: boolean;
    views: PanelViews;
    editing?: boolean;
    selected?: string | null;
    /** More beside the pickers. */
    beside?: Snippet;
    /** The heading of a section while it is edited. */
    heading?: Snippet<[Board['sections'][number]]>;
    onPlace?: (moved: ReadonlyMap<string, { place: GridArea; section: string | undefined }>) => void;
    onSelect?: (id: string) => void;
    onRemove?: (id: string) => void;
  }
  let {
    board,
    metrics,
    things,
    id = null,
    link = null,
    onWall = false,
    views,
    editing = false,
    selected = null,
    beside,
    heading,
    onPlace = () => {},
    onSelect = () => {},
    onRemove = () => {}
  }: Props = $props();
  const live = useLive();
  const reader = useReader();
  provideHover();
  // svelte-ignore state_referenced_locally (a link is a page of its own)
  const together = new BoardData(link?.token ?? null);
  const shown = $derived(shownRangeFrom(page.url.searchParams, usualOf(board.range)));
  const choices = $derived(link?.choices ?? choicesFrom(page.url.searchParams, board.pickers));
  const large = $derived(page.url.searchParams.get('panel'));
  const zone = $derived(board.zone ?? reader.zone);
  const range = $derived(resolveRange(shown, live.now));
  /** A mark of this very moment is shown, too. */
  const upToNow = $derived({ from: range.from, to: (range.to + 1) as Instant });
  const marksData = new MarksData();
  const marksShown = $derived(
    marksData.marks.filter(({ from, to }) => overlap(upToNow, { from, to: (to ?? from + 1) as Instant }) !== null)
  );
  const flags = $derived(
    marksShown.map(({ from, to, text, source }): MarkFlag => ({ from, to, text, isEvent: source === 'provider' }))
  );
  /** Services whose marks and events are shown here: those of its metrics. */
  const services = $derived(
    [
      ...new Set([
        ...(board.service === undefined || board.service === 'watch' ? [] : [board.service]),
        ...Object.values(metrics).map(({ service }) => service)
      ])
    ].sort()
  );
  $effect(() => void (link === null && marksData.read(range, id, services, false)));
  $effect(() => live.on(['mark'], () => void marksData.read(range, id, services, true)));
  /** What the address compares every panel with, such as the hour before a mark. */
  const earlier = $derived(lengthSaid('earlier') ?? undefined);
  /** A step of the address in place of the board's. */
  const step = $derived(signalSchema.shape.step.safeParse(page.url.searchParams.get('step')).data ?? board.step);
  let linked = $state(true);
  /** Sections that somebody folded or unfolded here. */
  let turned = $state.raw<ReadonlySet<string>>(new Set());
  const folded = $derived(
    new Set(board.sections.filter(({ id, folded: usual }) => usual !== turned.has(id)).map(({ id }) => id))
  );
  const metricNames = $derived([
    ...new Set(board.panels.flatMap(signalsOf).flatMap((signal) => picksOf(signal).map(({ metric }) => metric)))
  ]);
  /** In reading order, so that what is seen first is there first. */
  const asked = $derived(
    bySection(board)
      .flatMap(({ panels }) => panels)
      .filter(
        ({ id, section }) =>
          (large === null || editing || id === large) && (editing || section === undefined || !folded.has(section))
      )
  );

  provideScene({
    get metrics() {
      return metrics;
    },
    get things() {
      return things;
    },
    get pickers() {
      return board.pickers;
    },
    get choices() {
      return choices;
    },
    get marks() {
      return flags;
    },
    get allMarks() {
      return marksShown;
    },
    get earlier() {
      return earlier;
    },
    get zone() {
      return board.zone ?? null;
    },
    get linked() {
      return linked;
    },
    get who() {
      return link !== null ? ('guest' as const) : onWall ? ('wall' as const) : ('people' as const);
    },
    get editing() {
      return editing;
    },
    open: (resourceId) => {
      if (resourceId > 0 && link === null && !onWall) void setParameters({ resource: String(resourceId) });
    },
    choose,
    asShown,
    href
  });

  function choose(picker: Picker, values: readonly string[]): void {
    void showSearch(withChoice(page.url.searchParams, picker, values));
  }

  /** Other pages keep the range, other boards also what is picked. */
  function href(path: string): string {
    const [to = '', hash] = path.split('#');
    const [place = '', own = ''] = to.split('?');
    const search = new URLSearchParams(own);
    for (const [name, value] of page.url.searchParams)
      if (isOfTime(name) || name.startsWith('pick.'))
        if (!new URLSearchParams(own).has(name)) search.append(name, value);
    const query = search.toString();
    return `${place}${query === '' ? '' : `?${query}`}${hash === undefined ? '' : `#${hash}`}`;
  }

  /** What a panel shows while it is not unlinked: what somebody chose for all, else what it opens with. */
  const usualOfPanel = ({ range: own }: Panel): ShownRange =>
    own === undefined || saysRange(page.url.searchParams) ? shown : usualOf(own);
  const spanOf = (panel: Panel, now: Instant) => resolveRange(views.of(panel.id).shown(usualOfPanel(panel)), now);

  function asShown(panel: Panel, view: PanelView): Panel {
    const labels = (metric: string) => labelsOf(metrics, metric);
    return mapSignals(panel, (signal) =>
      readAs(pickedSignal(signal, board.pickers, choices, panel.ignores ?? [], labels), {
        step,
        statistic: view.statistic
      })
    );
  }

  const rereading = new Rereading(() => ask(true), later);

  /** Asks what is not known: of panels that changed, or with news, of all whose range moves with the clock. */
  function ask(news: boolean): Promise<void> {
    const now = untrack(() => live.now);
    const queries = asked.flatMap((panel): PanelQuery[] => {
      const view = views.of(panel.id);
      const its = view.shown(usualOfPanel(panel));
      const compared = view.earlier === undefined ? earlier : view.earlier;
      const all = queriesOfPanel(asShown(panel, view), resolveRange(its, now), {
        earlier: compared,
        arrivalOf: (signal) => arrivalOf(metrics, signal)
      });
      return all.flatMap(({ name, column, ...query }) => {
        const data = view.data(name);
        const { signal, range: span, cells } = query;
        const words = JSON.stringify([its, span.to - span.from, name === 'earlier' && compared, cells, signal, zone]);
        if (data.asked === words && !(news && its.kind === 'live')) return [];
        data.asked = words;
        const of = {
          panel: panel.id,
          column,
          step: signal.step,
          ...(view.statistic ? { statistic: view.statistic } : {})
        };
        return [{ ...query, data, of }];
      });
    });
    return queries.length > 0 ? together.ask(queries, zone).catch(reportError) : Promise.resolve();
  }
  $effect(() => rereading.wait(ask(false)));
  $effect(() => () => together.stop());

  /** How often the board is read again: with every sample that arrives (0), or as somebody chose; null for never. */
  const every = $derived(link !== null ? link.every : refreshOf(page.url.searchParams.get('refresh') ?? board.refresh));
  const turn = $derived(every === null || every === 0 ? 0 : Math.floor(live.now / every));
  $effect(() => {
    if (turn > 0) rereading.soon();
  });
  $effect(() => (every === 0 ? live.on(['samples'], () => rereading.soon()) : undefined));
  $effect(() => () => rereading.stop());
  const largePanel = $derived(editing ? undefined : board.panels.find(({ id }) => id === large));
</script>

{#snippet frame(panel: Panel)}
  <PanelFrame
    {panel}
    view={views.of(panel.id)}
    range={spanOf(panel, live.now)}
    isLarge={large === panel.id && !editing}
    onLarge={() => setParameters({ panel: large === panel.id ? null : panel.id })}
  />
{/snippet}

<p class="mb-2 hidden text-[13px] print:block" data-printed>
  {rangeWords(shown, live.now, zone)}: {exactMoment(range.from, zone)} to {exactMoment(range.to, zone)}. Printed
  {exactMoment(live.now, zone)}.
</p>
<span id="panels" tabindex="-1"></span>
<div class={['flex flex-wrap items-center gap-2', !onWall && 'mb-2.5']}>
  {#if link === null && !onWall}
    <PickerBar pickers={board.pickers} {choices} metrics={metricNames} onChoose={choose} />
  {:else}
    {#each board.pickers.filter(({ name }) => (choices[name] ?? []).length > 0) as { name, title } (name)}
      <span class="text-[13px]"><span class="text-quiet">{title}</span> <b>{(choices[name] ?? []).join(', ')}</b></span>
    {/each}
  {/if}
  {@render beside?.()}
  {#if earlier !== undefined}
    <span class="text-[13px]" role="status"
      >Dotted: {spokenDuration(earlier)} earlier.
      <button class="link" onclick={() => setParameters({ earlier: null })}>Compare no more</button></span
    >
  {/if}
  {#if !editing && !onWall && board.panels.some((panel) => signalsOf(panel).length > 0)}
    <label class="text-quiet ml-auto flex items-center gap-1.5 text-[13px] whitespace-nowrap">
      <input type="checkbox" bind:checked={linked} />All panels move together
    </label>
    {#if reader.mayEdit}<PutMark board={id} {services} />{/if}
  {/if}
</div>
{#if editing}
  <!-- Who only reads does not load what arranges. -->
  {#await import('../edit/EditGrid.svelte') then { default: EditGrid }}
    <EditGrid {board} {selected} panel={frame} heading={heading ?? noHeading} {onPlace} {onSelect} {onRemove} />
  {/await}
{:else if largePanel}
  <div class="h-[calc(100vh-190px)] min-h-[300px]">{@render frame(largePanel)}</div>
{:else}
  <ReadGrid
    {board}
    panel={frame}
    {folded}
    onFold={(id: string) =>
      (turned = new Set(turned.has(id) ? [...turned].filter((one) => one !== id) : [...turned, id]))}
  />
{/if}
{#snippet noHeading(section: Board['sections'][number])}<h2>{section.title}</h2>{/snippet}
