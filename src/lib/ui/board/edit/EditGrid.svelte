<script lang="ts">
  import type { GridStack } from 'gridstack';
  import 'gridstack/dist/gridstack.css';
  import { onMount, type Snippet } from 'svelte';
  import { bySection, type Board, type Panel, type GridArea } from '$lib/core/board';

  interface Props {
    board: Board;
    /** The panel whose settings are open. */
    selected: string | null;
    panel: Snippet<[Panel]>;
    heading: Snippet<[Board['sections'][number]]>;
    onPlace: (moved: ReadonlyMap<string, { place: GridArea; section: string | undefined }>) => void;
    onSelect: (id: string) => void;
    onRemove: (id: string) => void;
  }
  let { board, selected, panel: body, heading, onPlace, onSelect, onRemove }: Props = $props();
  let Stack = $state.raw<typeof GridStack | null>(null);
  onMount(async () => {
    Stack = (await import('gridstack')).GridStack;
  });
  const rowHeight = 66;
  const grids = new Map<string, GridStack>();
  /** Panels keep their place among the elements while they are moved, so that the keyboard stays on the one it moves. */
  const order = new Map<string, number>();
  const sections = $derived(
    bySection(board).map(({ section, panels }) => {
      for (const { id } of panels) if (!order.has(id)) order.set(id, order.size);
      return { section, panels: [...panels].sort((a, b) => (order.get(a.id) ?? 0) - (order.get(b.id) ?? 0)) };
    })
  );
  /** Said to people who cannot see where a panel went. */
  let announced = $state('');
  /** While a person holds a panel: what comes from elsewhere, such as that the last change was saved, waits until the panel is dropped. */
  let isHeld = $state(false);
  /** While the grids are brought to what the board says, their own changes are not those of a person. */
  let isSyncing = false;

  function stack(node: HTMLElement, section: string) {
    if (Stack === null) throw new Error('stack: the grid is drawn before it is loaded');
    const grid = Stack.init(
      {
        column: 12,
        cellHeight: rowHeight,
        margin: 5,
        minRow: 1,
        mode: 'float',
        auto: false,
        animate: false,
        acceptWidgets: '.grid-stack-item',
        draggable: { handle: '.panel-handle' },
        resizable: { handles: 'e,se,s' }
      },
      node
    ) as GridStack; // null only of an element that is not there
    grids.set(section, grid);
    for (const item of node.querySelectorAll<HTMLElement>(':scope > .grid-stack-item')) grid.makeWidget(item);
    grid.on('change', readBack);
    grid.on('dropped', readBack);
    for (const begin of ['dragstart', 'resizestart'] as const) grid.on(begin, () => (isHeld = true));
    for (const end of ['dragstop', 'resizestop'] as const) grid.on(end, () => (isHeld = false));
    return {
      destroy() {
        grids.delete(section);
        grid.destroy(false);
      }
    };
  }

  function item(node: HTMLElement) {
    for (const grid of grids.values()) if (grid.el === node.parentElement) grid.makeWidget(node);
    return {
      destroy() {
        for (const grid of grids.values())
          if (grid.engine.nodes.some(({ el }) => el === node)) grid.removeWidget(node, false, false);
      }
    };
  }

  /** What a person moved or sized becomes part of the board. */
  function readBack(): void {
    if (isSyncing) return;
    const moved = new Map<string, { place: GridArea; section: string | undefined }>();
    for (const [section, grid] of grids)
      for (const { id, x = 0, y = 0, w = 1, h = 1 } of grid.engine.nodes) {
        const known = board.panels.find((one) => one.id === id);
        if (!known) continue;
        const of = section === '' ? undefined : section;
        const { place } = known;
        if (known.section !== of || place.x !== x || place.y !== y || place.w !== w || place.h !== h)
          moved.set(known.id, { place: { x, y, w, h }, section: of });
      }
    if (moved.size > 0) onPlace(moved);
  }

  $effect(() => {
    const wanted = sections;
    if (!Stack || isHeld) return;
    isSyncing = true;
    for (const { section, panels } of wanted) {
      const grid = grids.get(section?.id ?? '');
      if (!grid) continue;
      const apart = panels.some(({ id, place }) => {
        const node = grid.engine.nodes.find((one) => one.id === id);
        return node && (node.x !== place.x || node.y !== place.y || node.w !== place.w || node.h !== place.h);
      });
      if (apart)
        grid.load(
          panels.map(({ id, place }) => ({ id, ...place })),
          false
        );
    }
    isSyncing = false;
  });

  /** Attributes that the grid reads. */
  const placed = ({ id, place: { x, y, w, h } }: Panel) => ({
    'gs-id': id,
    'gs-x': x,
    'gs-y': y,
    'gs-w': w,
    'gs-h': h
  });
  const words = ({ title, place: { x, y, w, h } }: Panel) =>
    `${title}: column ${x + 1}, row ${y + 1}, ${w} wide, ${h} high`;

  /** Arrows move by one, with Shift they size. */
  function onKey(event: KeyboardEvent, panel: Panel): void {
    if (event.target !== event.currentTarget) return;
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (event.key === 'Enter') onSelect(panel.id);
    else if (event.key === 'Delete') onRemove(panel.id);
    else if (by) {
      const [dx, dy] = by as [number, number];
      const { x, y, w, h } = panel.place;
      const place = event.shiftKey
        ? { x, y, w: Math.min(12 - x, Math.max(1, w + dx)), h: Math.min(60, Math.max(1, h + dy)) }
        : { x: Math.min(12 - w, Math.max(0, x + dx)), y: Math.max(0, y + dy), w, h };
      onPlace(new Map([[panel.id, { place, section: panel.section }]]));
      announced = words({ ...panel, place });
    } else return;
    event.preventDefault();
  }
</script>

<p class="sr-only" role="status">{announced}</p>
{#if Stack}
  {#each sections as { section, panels } (section?.id ?? '')}
    {#if section}{@render heading(section)}{/if}
    <div class="grid-stack -mx-[5px] mb-2" data-section={section?.title ?? ''} use:stack={section?.id ?? ''}>
      {#each panels as panel (panel.id)}
        <!-- svelte-ignore a11y_no_noninteractive_tabindex (a panel is moved and sized by keys) -->
        <div
          class={['grid-stack-item', selected === panel.id && 'is-selected']}
          {...placed(panel)}
          role="group"
          tabindex="0"
          aria-label="{words(
            panel
          )}. Arrows move it, Shift with arrows sizes it, Enter opens its settings, Delete takes it away."
          onkeydown={(event) => onKey(event, panel)}
          use:item
        >
          <div class="grid-stack-item-content overflow-hidden!">{@render body(panel)}</div>
        </div>
      {/each}
    </div>
    {#if section && panels.length === 0}
      <p class="text-quiet -mt-2 mb-3 text-[12px]">Drag panels here, or add some while this section is open.</p>
    {/if}
  {/each}
{:else}<p class="text-quiet p-6 text-[13px]">Reading…</p>{/if}

<style>
  .grid-stack {
    background-image: linear-gradient(to right, var(--line) 1px, transparent 1px);
    background-size: calc(100% / 12) 100%;
    min-height: 66px;
  }
  .is-selected :global(> .grid-stack-item-content > .panel) {
    border-color: var(--deep);
    box-shadow: inset 0 0 0 1px var(--deep);
  }
  .grid-stack :global(.grid-stack-placeholder > .placeholder-content) {
    background: var(--shallow);
    border: 1px dashed var(--deep);
    border-radius: 3px;
  }
</style>
