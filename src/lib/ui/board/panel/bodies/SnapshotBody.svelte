<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import { reached, snapshotRows, sortedRows, type Figure, type PanelOf, type SnapshotRow } from '$lib/core/board';
  import { peopleMoment } from '$lib/core/time';
  import SeverityHoist from '../../../alarm/SeverityHoist.svelte';
  import { graver, type Severity } from '$lib/core/alarm';
  import { hueOf } from '../../../chart/picture';
  import Spark from '../../../chart/Spark.svelte';
  import { useLive } from '../../../live/live.svelte';
  import { useReader } from '../../../time/reader';
  import LimitHoist from '../LimitHoist.svelte';
  import { columnFormat } from '../column-format';
  import type { PanelView } from '../../data/panel-view.svelte';
  import { openOn, useBoardContext } from '../../data/board-context.svelte';

  let { panel, view }: { panel: PanelOf<'snapshot'>; view: PanelView } = $props();
  const boardContext = useBoardContext();
  const live = useLive();
  const reader = useReader();
  let find = $state('');
  let unfolded = $state(false);
  /** As the reader sorts it for now; the panel's own order until then. */
  let sorted = $state.raw<PanelOf<'snapshot'>['sort']>(undefined);
  const sort = $derived(sorted ?? panel.sort);
  const answers = $derived(panel.columns.map((_, index) => view.data(`column ${index}`).answer));
  const rows = $derived(
    sortedRows(
      snapshotRows(
        answers,
        panel.columns.map(({ reduce }) => reduce)
      ),
      sort
    )
  );
  const found = $derived(rows.filter(({ name }) => name.toLowerCase().includes(find.trim().toLowerCase())));
  const shown = $derived(unfolded ? found : found.slice(0, panel.rows));
  /** How each column is written: one scale for all its rows, and where shades and bars begin and end. */
  const formats = $derived(
    panel.columns.map((column, index) =>
      columnFormat(
        column,
        answers[index]?.rows[0]?.unit ?? '1',
        rows.flatMap(({ cells }) => cells[index]?.figure ?? []),
        (at) => ({ at, now: live.now, zone: boardContext.zone ?? reader.zone })
      )
    )
  );
  /** The unit behind a heading, unless the heading says it already. */
  const unitBeside = (title: string, unit: string) =>
    unit === '' || title.toLowerCase().includes(unit.trim().toLowerCase()) ? '' : ` ${unit.trim()}`;
  const worstOf = ({ name }: SnapshotRow): Severity | null =>
    openOn(boardContext.things, name).reduce<Severity | null>((worst, { severity }) => graver(worst, severity), null);

  /** Until when an old figure is known; null for one of now. */
  const asOf = ({ asOf: at }: Figure): string | null =>
    at === null ? null : `as of ${peopleMoment(at, live.now, reader.dates)}`;

  function sortBy(column: number): void {
    const turned = sort?.column === column && sort.direction === 'highest' ? 'lowest' : 'highest';
    sorted = { column, direction: turned };
  }
</script>

<div class="min-h-0 flex-1 overflow-auto">
  <table class="rows">
    <thead class="bg-panel sticky top-0 z-1">
      <tr>
        <th class="w-6"><span class="sr-only">Severity</span></th>
        <th>
          <input
            class="field max-w-[150px] px-1! py-0! text-[12px]!"
            placeholder="Find"
            aria-label="Find a row"
            bind:value={find}
          />
        </th>
        {#each panel.columns as { title, show }, column (column)}
          <th
            class={show === 'course' ? '' : 'right'}
            aria-sort={sort?.column === column ? (sort.direction === 'highest' ? 'descending' : 'ascending') : 'none'}
          >
            <button class="inline-flex items-center gap-1 font-semibold" onclick={() => sortBy(column)}>
              {title}{unitBeside(title, formats[column]?.unit ?? '')}
              {#if sort?.column === column}{#if sort.direction === 'highest'}<ArrowDown size={12} />{:else}<ArrowUp
                    size={12}
                  />{/if}{/if}
            </button>
          </th>
        {/each}
      </tr>
    </thead>
    <tbody>
      {#each shown as row (row.key)}
        <tr>
          <td><SeverityHoist severity={worstOf(row)} /></td>
          <td
            ><button
              class="text-left whitespace-nowrap"
              title={row.account}
              onclick={() => boardContext.open(row.resourceId)}>{row.name}</button
            >{#if row.silentSince !== null}<span class="fault block text-[11.5px] whitespace-nowrap" data-silent
                >silent since {peopleMoment(row.silentSince, live.now, reader.dates)}</span
              >{/if}</td
          >
          {#each row.cells as cell, column (column)}
            {@const format = formats[column]}
            {@const show = panel.columns[column]?.show}
            {@const limits = panel.columns[column]?.limits}
            {@const limit = cell ? reached(limits, cell.figure, row.name) : null}
            {#if !cell || !format}<td class="text-quiet right">–</td>
            {:else if show === 'course'}
              <td
                ><Spark values={cell.values} hue={hueOf(Math.max(1, row.resourceId)).hue} width={140} height={20} /></td
              >
            {:else if show === 'shade'}
              <td
                class={['num right', asOf(cell) !== null && 'text-quiet']}
                title={asOf(cell)}
                style:background="color-mix(in srgb, var(--{limit ? limit.severity : 'hue-8'}) {limit
                  ? 30
                  : Math.round(format.part(cell.figure) * 55)}%, transparent)"
                ><span class="inline-flex items-center gap-1.5"
                  ><LimitHoist {limit} unit={format.code} />{format.written(cell.figure)}</span
                ></td
              >
            {:else if show === 'bar'}
              <td class={['num min-w-[120px]', asOf(cell) !== null && 'text-quiet']} title={asOf(cell)}>
                <span class="flex items-center gap-2"
                  ><span class="bg-sunk h-2.5 flex-1"
                    ><span
                      class="block h-full"
                      style:width="{format.part(cell.figure) * 100}%"
                      style:background="var(--{limit ? limit.severity : 'deep'})"
                    ></span></span
                  ><LimitHoist {limit} unit={format.code} /><span class="min-w-[44px] text-right"
                    >{format.written(cell.figure)}</span
                  ></span
                >
              </td>
            {:else}<td
                class={['num right', asOf(cell) !== null && 'text-quiet']}
                title={asOf(cell) ?? format.exact(cell.figure)}
                ><span class="inline-flex items-center gap-1.5"
                  ><LimitHoist {limit} unit={format.code} />{format.written(cell.figure)}</span
                ></td
              >{/if}
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
  {#if found.length > panel.rows}
    <button class="link mt-1 text-[12px]" onclick={() => (unfolded = !unfolded)}
      >{unfolded ? `Only the first ${panel.rows}` : `and ${found.length - panel.rows} more`}</button
    >
  {:else if found.length === 0 && find !== ''}
    <p class="text-quiet py-2 text-[13px]">No row is named like this.</p>
  {/if}
</div>
