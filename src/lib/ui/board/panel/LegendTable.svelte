<script lang="ts">
  import { summarise } from '$lib/core/series';
  import { columnPlaces, digits, displayScale, fixed, unit as unitOf } from '$lib/core/units';
  import Swatch from '../../chart/Swatch.svelte';
  import type { Line } from '../../chart/picture';

  interface Props {
    lines: readonly Line[];
    unit: string;
    /** Digits after the point. */
    fraction?: number | undefined;
    /** Rows shown before the rest is unfolded. */
    rows: number;
    order?: 'highest' | 'lowest' | 'name';
    alone: number | null;
    /** A line is to be drawn alone, or with Shift, to become what the board's picker chooses. */
    onAlone: (id: number, asPicker: boolean) => void;
    /** Opens the details of a line; without it lines have none. */
    onOpen?: (id: number) => void;
  }
  let { lines, unit, fraction, rows, order = 'highest', alone, onAlone, onOpen }: Props = $props();
  let unfolded = $state(false);
  const summaries = $derived(
    lines.map((line) => ({ ...line, ...summarise(line.values.subarray(0, line.complete)) })).sort(byOrder)
  );
  function byOrder(a: { name: string; last: number }, b: { name: string; last: number }): number {
    if (order === 'name') return a.name.localeCompare(b.name, 'en', { numeric: true });
    if (Number.isNaN(a.last) || Number.isNaN(b.last))
      return Number(Number.isNaN(a.last)) - Number(Number.isNaN(b.last));
    return order === 'highest' ? b.last - a.last : a.last - b.last;
  }
  const scale = $derived(displayScale(unit, unitOf(unit).bounds ?? summaries.map(({ max }) => max)));
  const shown = $derived(unfolded ? summaries : summaries.slice(0, rows));
  const columns = ['last', 'avg', 'min', 'max'] as const;
  /** As many digits for all of a column, so that numbers line up; none for whole numbers, such as runs. */
  const places = $derived(
    columns.map((name) => {
      if (fraction !== undefined) return fraction;
      const values = summaries.map((one) => one[name] / scale.divisor);
      return unitOf(unit).bounds ? 1 : columnPlaces(values);
    })
  );
  const written = (value: number, column: number) =>
    Number.isNaN(value) ? '–' : fixed(value / scale.divisor, places[column] ?? 0);
</script>

<table class="w-full border-collapse text-[12px]">
  <thead>
    <tr class="text-quiet text-left">
      <th class="py-0.5 font-semibold">Series{scale.text === '' ? '' : `, in ${scale.text}`}</th>
      {#each columns as name (name)}<th class="w-[72px] text-right font-semibold">{name}</th>{/each}
      <th class="w-6"></th>
    </tr>
  </thead>
  <tbody>
    {#each shown as { id, name, hue, dashed, last, avg, min, max } (id)}
      <tr class={['border-line h-[20px] border-t', alone !== null && alone !== id && 'opacity-50']}>
        <td>
          <button
            class="flex items-center gap-2 whitespace-nowrap"
            aria-pressed={alone === id}
            title="Draw only {name}"
            onclick={(event) => onAlone(id, event.shiftKey)}><Swatch {hue} {dashed} />{name}</button
          >
        </td>
        {#each [last, avg, min, max] as value, column (column)}<td class="num text-right">{written(value, column)}</td
          >{/each}
        <td class="text-right"
          >{#if onOpen}<button class="text-quiet align-middle" aria-label="Details of {name}" onclick={() => onOpen(id)}
              >›</button
            >{/if}</td
        >
      </tr>
    {/each}
  </tbody>
</table>
{#if summaries.length > rows}
  <button class="link mt-0.5 self-start text-[12px]" onclick={() => (unfolded = !unfolded)}>
    {unfolded
      ? `Only the first ${rows}`
      : order === 'highest' && !Number.isNaN(summaries[rows]?.last ?? NaN)
        ? `and ${summaries.length - rows} more, last at most ${digits((summaries[rows]?.last ?? NaN) / scale.divisor)} ${scale.text}`
        : `and ${summaries.length - rows} more`}
  </button>
{/if}
