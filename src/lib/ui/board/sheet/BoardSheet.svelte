<script lang="ts">
  import type { Snippet } from 'svelte';
  import { page } from '$app/state';
  import {
    bySection,
    choicesFrom,
    withChoice,
    type Board,
    type Choices,
    type GridArea,
    type Panel,
    type Picker
  } from '$lib/core/board';
  import { signalSchema } from '$lib/core/signal';
  import { exactMoment, resolveRange, shownRangeFrom, usualOf } from '$lib/core/time';
  import type { MarkFlag } from '../../chart/picture';
  import { MarksData } from '../../mark/marks-data.svelte';
  import { provideHover } from '../../chart/hover.svelte';
  import { useLive } from '../../live/live.svelte';
  import { useReader } from '../../time/reader';
  import { setParameters, showSearch } from '../../address';
  import { keepingPicks, lengthSaid, rangeWords, refreshOf } from '../../time/shown';
  import PanelFrame from '../panel/PanelFrame.svelte';
  import { BoardReading } from '../data/board-reading.svelte';
  import type { PanelViews } from '../data/panel-view.svelte';
  import ReadGrid from './ReadGrid.svelte';
  import SheetHead from './SheetHead.svelte';
  import { provideBoardContext, type BoardThings, type BoardContext } from '../data/board-context.svelte';

  interface Props {
    board: Board;
    metrics: BoardContext['metrics'];
    things: BoardThings;
    /** The stored board that it is; null for a ready one. */
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
  const shown = $derived(shownRangeFrom(page.url.searchParams, usualOf(board.range)));
  const choices = $derived(link?.choices ?? choicesFrom(page.url.searchParams, board.pickers));
  const large = $derived(page.url.searchParams.get('panel'));
  const zone = $derived(board.zone ?? reader.zone);
  const range = $derived(resolveRange(shown, live.now));
  const marksData = new MarksData();
  const marks = $derived(marksData.within(range));
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
  /** In reading order, so that what is seen first is there first. */
  const seen = $derived(
    bySection(board)
      .flatMap(({ panels }) => panels)
      .filter(
        ({ id, section }) =>
          (large === null || editing || id === large) && (editing || section === undefined || !folded.has(section))
      )
  );
  // svelte-ignore state_referenced_locally (a link is a page of its own)
  const reading = new BoardReading(id, link?.token ?? null, () => ({
    ...{ views, metrics, choices, step, earlier, zone, shown },
    pickers: board.pickers,
    search: page.url.searchParams,
    panels: seen,
    get now() {
      return live.now;
    }
  }));

  provideBoardContext({
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
      return marks.map(({ from, to, text, source }): MarkFlag => ({ from, to, text, isEvent: source === 'provider' }));
    },
    get allMarks() {
      return marks;
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
    asShown: reading.asShown,
    href: (path) => keepingPicks(path, page.url.searchParams)
  });

  function choose(picker: Picker, values: readonly string[]): void {
    void showSearch(withChoice(page.url.searchParams, picker, values));
  }

  $effect(() => reading.read());

  /** How often the board is read again: with every sample that arrives (0), or as somebody chose; null for never. */
  const every = $derived(link !== null ? link.every : refreshOf(page.url.searchParams.get('refresh') ?? board.refresh));
  const turn = $derived(every === null || every === 0 ? 0 : Math.floor(live.now / every));
  $effect(() => {
    if (turn > 0) reading.soon();
  });
  $effect(() => (every === 0 ? live.on(['samples'], () => reading.soon()) : undefined));
  $effect(() => () => reading.stop());
  const largePanel = $derived(editing ? undefined : board.panels.find(({ id }) => id === large));
</script>

{#snippet frame(panel: Panel)}
  <PanelFrame
    {panel}
    view={views.of(panel.id)}
    range={reading.spanOf(panel)}
    isLarge={large === panel.id && !editing}
    onLarge={() => setParameters({ panel: large === panel.id ? null : panel.id })}
  />
{/snippet}

<p class="mb-2 hidden text-[13px] print:block" data-printed>
  {rangeWords(shown, live.now, zone)}: {exactMoment(range.from, zone)} to {exactMoment(range.to, zone)}. Printed
  {exactMoment(live.now, zone)}.
</p>
<span id="panels" tabindex="-1"></span>
<SheetHead {board} {id} {services} bind:linked {beside} />
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
