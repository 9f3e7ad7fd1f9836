<script lang="ts">
  import { beforeNavigate, goto } from '$app/navigation';
  import { page } from '$app/state';
  import type { Board, Panel, PanelContent } from '$lib/core/board';
  import type { Instant } from '$lib/core/time';
  import { addPanel, addSection, changePanel, duplicatePanel, placePanels, removePanel } from '$lib/core/board';
  import AddPanel from '$lib/ui/board/edit/AddPanel.svelte';
  import BoardBar from '$lib/ui/board/sheet/BoardBar.svelte';
  import BoardSheet from '$lib/ui/board/sheet/BoardSheet.svelte';
  import ConflictList from '$lib/ui/board/edit/ConflictList.svelte';
  import { BoardEditor } from '$lib/ui/board/edit/editor.svelte';
  import HistoryMargin from '$lib/ui/board/edit/HistoryMargin.svelte';
  import { newId } from '$lib/ui/board/edit/new-id';
  import PanelSettings from '$lib/ui/board/edit/PanelSettings.svelte';
  import { PanelViews } from '$lib/ui/board/data/panel-view.svelte';
  import { Presence } from '$lib/ui/board/sheet/presence.svelte';
  import { thingsOf, type BoardMetric } from '$lib/ui/board/data/board-context.svelte';
  import ShareMargin from '$lib/ui/board/share/ShareMargin.svelte';
  import { copyOf } from '$lib/ui/board/share/copy-board';
  import { setParameters } from '$lib/ui/address';
  import { withRange } from '$lib/ui/time/shown';
  import SectionHeading from '$lib/ui/board/sheet/SectionHeading.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import NewPicker from '$lib/ui/board/pickers/NewPicker.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import ResourceMargin from '$lib/ui/margin/ResourceMargin.svelte';
  import type { PageProps } from './$types';

  type Moved = Parameters<typeof placePanels>[1];
  interface Past {
    readonly version: number;
    readonly madeAt: Instant;
    readonly board: Board;
  }
  let { data }: PageProps = $props();
  const live = useLive();
  const mayEdit = $derived(data.mayEdit);
  const id = $derived(data.board.id);
  // svelte-ignore state_referenced_locally (another board is another page: see the key in the layout)
  const editor = new BoardEditor(data.board);
  const views = new PanelViews();
  const pastViews = new PanelViews();
  const presence = new Presence();
  const board = $derived(editor.board);
  const editing = $derived(mayEdit && page.url.searchParams.has('edit'));
  const opened = $derived(Number(page.url.searchParams.get('resource')) || null);
  /** Metrics of panels that were added since the page was read. */
  let added = $state.raw<Readonly<Record<string, BoardMetric>>>({});
  const metrics = $derived({ ...added, ...data.metrics });
  /** What is open beside the board. */
  let beside = $state<'add' | 'history' | 'share' | null>(null);
  let selected = $state<string | null>(null);
  /** A version that is looked at in the place of the board. */
  let looked = $state.raw<Past | null>(null);
  let problem = $state('');
  const panel = $derived(editing ? board.panels.find((one) => one.id === selected) : undefined);

  $effect(() => editor.take(data.board));
  $effect(() => live.on(['board'], () => void editor.read()));
  useRefresh(live, ['alarm'], 'bussola:board');
  $effect(() => presence.stay(id, () => ({ editing, panel: selected })));
  beforeNavigate(({ to, willUnload, cancel }) => {
    if (to?.url.pathname === page.url.pathname) return;
    if (willUnload && editor.hasUnsavedChanges)
      cancel(); // the browser asks whether to leave
    else if (!editor.mayLeave()) cancel();
  });

  const things = $derived(thingsOf(data));

  /** Begins to edit, or ends once all is saved; what is refused stays where it can be put right. */
  async function setEditing(to: boolean): Promise<void> {
    beside = selected = null;
    if (to) return setParameters({ edit: '', panel: null });
    const here = page.url.pathname;
    if (editor.hasUnsavedChanges) await editor.flush();
    const isRefused = editor.hasUnsavedChanges && editor.standing.saving === 'refused';
    if (!isRefused && page.url.pathname === here) await setParameters({ edit: null });
  }

  function know(metric: BoardMetric | null | undefined): void {
    if (metric) added = { ...added, [metric.name]: metric };
  }

  function add(content: PanelContent, metric: BoardMetric | null): void {
    know(metric);
    editor.change(addPanel(board, content, newId()));
    if (!editing) void setParameters({ edit: '' });
  }

  async function copy(): Promise<void> {
    const made = await copyOf(board);
    if ('id' in made) await goto(withRange(`/boards/${made.id}?edit`));
    else problem = made.problem;
  }

  function select(wanted: string | null): void {
    selected = wanted;
    if (wanted !== null) beside = null;
  }

  function remove(wanted: string): void {
    editor.change(removePanel(board, wanted));
    if (selected === wanted) selected = null;
  }

  function onKey(event: KeyboardEvent): void {
    if (!mayEdit || (event.target instanceof HTMLElement && event.target.closest('input, textarea, select, dialog')))
      return;
    const withControl = event.ctrlKey || event.metaKey;
    if (withControl && event.key.toLowerCase() === 'z' && editing) {
      if (event.shiftKey) editor.redo();
      else editor.undo();
    } else if (!withControl && !event.altKey && event.key === 'e') void setEditing(!editing);
    else return;
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={onKey} onpagehide={() => editor.sendLast()} />
<svelte:head><title>{board.title} · Bussola</title></svelte:head>
<main class="@container min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <BoardBar
    {editor}
    {id}
    {mayEdit}
    mayGovern={data.mayGovern}
    isFavourite={data.isFavourite}
    sharing={data.board.sharing}
    {editing}
    onShare={() => ((beside = 'share'), (selected = null))}
    onCopy={copy}
    others={presence.others}
    onEditing={setEditing}
    onAdd={() => ((beside = 'add'), (selected = null))}
    onSection={() =>
      editor.change(
        addSection(board, `Section ${board.sections.length + 1}`, newId()),
        'There is room for 30 sections.'
      )}
    onHistory={() => ((beside = 'history'), (selected = null))}
  />
  {#if problem}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  {#if editor.standing.conflicts.length > 0}<ConflictList {editor} />{/if}
  {#if looked}
    <p class="bg-shallow mb-2 flex flex-wrap items-center gap-2 p-2 text-[13px]" role="status">
      As it was <Moment at={looked.madeAt} now={live.now} />, with the numbers of now.
      <button class="btn" onclick={() => (looked = null)}>Back to the board</button>
    </p>
    <BoardSheet board={looked.board} {id} {metrics} {things} views={pastViews} />
  {:else if board.panels.length === 0 && !editing}
    <div class="panel items-start gap-2 p-6!">
      <h2>Nothing is on this board yet.</h2>
      {#if mayEdit}
        <p class="text-quiet">Say what you want to see; Bussola proposes the picture that suits the data.</p>
        <button class="btn btn-main" onclick={() => ((beside = 'add'), setParameters({ edit: '' }))}>Add a panel</button
        >
      {:else}<p class="text-quiet">Somebody who may edit can add panels.</p>{/if}
    </div>
  {:else}
    <BoardSheet
      {board}
      {id}
      {metrics}
      {things}
      {views}
      {editing}
      {selected}
      onPlace={(moved: Moved) => editor.change(placePanels(board, moved))}
      onSelect={select}
      onRemove={remove}
    >
      {#snippet beside()}
        {#if editing}<NewPicker {editor} />{/if}
      {/snippet}
      {#snippet heading(section)}<SectionHeading {section} {editor} />{/snippet}
    </BoardSheet>
  {/if}
</main>
{#if panel}
  {#key panel.id}
    <PanelSettings
      {panel}
      view={views.of(panel.id)}
      {metrics}
      pickers={board.pickers}
      sections={board.sections}
      bench="/bench?signal={encodeURIComponent(
        JSON.stringify('signal' in panel ? panel.signal : 'columns' in panel ? panel.columns[0]?.signal : null)
      )}&board={id}&panel={panel.id}"
      onChange={(next: Panel, metric?: BoardMetric) => {
        know(metric);
        editor.change(changePanel(board, panel.id, () => next));
      }}
      onSection={(section: string | undefined) =>
        editor.change(placePanels(board, new Map([[panel.id, { place: panel.place, section }]])))}
      onDuplicate={() => editor.change(duplicatePanel(board, panel.id, newId()))}
      onRemove={() => remove(panel.id)}
      onClose={() => (selected = null)}
    />
  {/key}
{:else if beside === 'add' && mayEdit}
  <AddPanel now={live.now} service={board.service ?? null} onAdd={add} onClose={() => (beside = null)} />
{:else if beside === 'share' && data.mayGovern}
  <ShareMargin {id} pickers={board.pickers} onClose={() => (beside = null)} />
{:else if beside === 'history'}
  <HistoryMargin
    {editor}
    {id}
    onLook={(past: Past | null) => (looked = past)}
    onClose={() => ((beside = null), (looked = null))}
  />
{:else if opened !== null}
  <ResourceMargin resourceId={opened} onClose={() => setParameters({ resource: null })} />
{/if}
