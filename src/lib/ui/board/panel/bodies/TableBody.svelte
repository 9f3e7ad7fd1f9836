<script lang="ts">
  import type { PanelOf } from '$lib/core/board';
  import { valuesOf } from '$lib/core/series';
  import { cellStart, type Duration } from '$lib/core/time';
  import { digits, displayScale, fixed } from '$lib/core/units';
  import { useLive } from '../../../live/live.svelte';
  import Moment from '../../../time/Moment.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';

  /** Series and cells that a page can hold; more are in the CSV. */
  const most = { columns: 20, rows: 200 };
  interface Props {
    panel: Pick<PanelOf<'table'>, 'signal' | 'names'>;
    view: PanelView;
    /** What its numbers are called. */
    name?: string;
  }
  let { panel, view, name: asked = 'main' }: Props = $props();
  const live = useLive();
  const answer = $derived(view.data(asked).answer);
  const series = $derived(
    (answer?.series ?? []).slice(0, most.columns).map((one) => ({ ...one, values: valuesOf(one) }))
  );
  const scale = $derived(
    displayScale(
      answer?.rows[0]?.unit ?? '1',
      series.flatMap(({ values }) => [...values])
    )
  );
  const written = (value: number) =>
    Number.isNaN(value)
      ? '–'
      : panel.signal.digits === undefined
        ? digits(value / scale.divisor)
        : fixed(value / scale.divisor, panel.signal.digits);
  const cells = $derived.by(() => {
    if (!answer) return [];
    const rows = Array.from({ length: answer.complete }, (_, index) => answer.complete - 1 - index)
      .filter((cell) => series.some(({ values, complete }) => cell < complete && !Number.isNaN(values[cell])))
      .slice(0, most.rows);
    return rows.map((cell) => ({ cell, at: cellStart({ ...answer, step: answer.step as Duration }, cell) }));
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex (it is scrolled by keys) -->
<div class="min-h-0 flex-1 overflow-auto" role="group" aria-label="Values, newest first" tabindex="0">
  <table class="rows">
    <thead class="bg-panel sticky top-0 z-1">
      <tr>
        <th>When</th>
        {#each series as { id, name } (id)}<th class="right"
            >{panel.names[name] ?? name}{scale.text ? `, ${scale.text.trim()}` : ''}</th
          >{/each}
      </tr>
    </thead>
    <tbody>
      {#each cells as { cell, at } (at)}
        <tr>
          <td class="whitespace-nowrap"><Moment {at} now={live.now} /></td>
          {#each series as { id, values, complete } (id)}<td class="num right"
              >{written(cell < complete ? (values[cell] ?? NaN) : NaN)}</td
            >{/each}
        </tr>
      {/each}
    </tbody>
  </table>
  {#if answer && answer.series.length > most.columns}
    <p class="text-quiet py-1 text-[12px]">{answer.series.length - most.columns} more series are in the CSV.</p>
  {/if}
</div>
