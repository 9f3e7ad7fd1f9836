<script lang="ts">
  import { waitedFor } from '$lib/core/series';
  import { shownRows, type Signal } from '$lib/core/signal';
  import { duration, spokenDuration } from '$lib/core/time';
  import LegendTable from '../board/panel/LegendTable.svelte';
  import type { PanelData } from '../board/data/panel-data.svelte';
  import { pictureOf } from '../board/panel/picture-of';
  import TimeChart from '../chart/TimeChart.svelte';

  interface Props {
    preview: PanelData;
    signal: Signal;
    /** Whether what is wrong is said at its row already. */
    placed: boolean;
  }
  let { preview, signal, placed }: Props = $props();
  let alone = $state<number | null>(null);
  const { answer, range } = $derived(preview);
  const whole = $derived(answer && range ? pictureOf(answer, range, signal.digits) : null);
  const picture = $derived(
    whole && alone !== null && whole.lines.some(({ id }) => id === alone)
      ? { ...whole, lines: whole.lines.filter(({ id }) => id === alone) }
      : whole
  );
  const number = (value: number) => value.toLocaleString('en');
  const did = $derived.by(() => {
    if (!answer) return '';
    const { points, resolution, milliseconds, here } = answer.effort;
    const took = `${Math.max(1, Math.round(milliseconds))} ms`;
    if (here) return `${number(points)} cells computed in the browser in ${took}`;
    const what =
      resolution === 0 ? 'samples' : `summaries of ${spokenDuration(duration(resolution))} and newer samples`;
    const cells = answer.series.length * answer.count;
    return `${number(cells)} cells from ${number(points)} ${what} in ${took}`;
  });
  const waited = $derived(answer && waitedFor(answer));
  const waiting = $derived(waited ? `newest: ${waited.missing} of ${waited.of} series not there yet` : '');
  const longer = $derived(
    answer && signal.step !== 'auto' && spokenDuration(duration(answer.step)) !== '' && answer.step > 60_000
      ? `cells of ${spokenDuration(duration(answer.step))}`
      : ''
  );
</script>

<section class="panel" aria-label="Preview">
  <header>
    <h2>{shownRows(signal).join(', ')}</h2>
    <small>{[longer, waiting].filter(Boolean).join(', ')}</small>
    <span class="text-quiet ml-auto shrink-0 text-[12px]" data-testid="effort">{did}</span>
  </header>
  {#if preview.problem && !placed}<p class="fault text-[13px]" role="alert">{preview.problem}</p>{/if}
  {#if picture && picture.lines.length > 0}
    <div class={preview.problem ? 'opacity-50' : ''}>
      <TimeChart {picture} height={220} label="Preview of the signal" />
      <LegendTable
        lines={whole?.lines ?? []}
        unit={picture.unit}
        fraction={signal.digits}
        rows={6}
        {alone}
        onAlone={(id: number) => (alone = alone === id ? null : id)}
      />
    </div>
  {:else}
    <div class="text-quiet grid min-h-[340px] place-items-center text-[13px]">
      {preview.problem
        ? placed
          ? 'A row cannot be computed. The reason is shown beside it.'
          : ''
        : answer
          ? 'Nothing to draw: no series is left. The reason is shown above.'
          : 'Reading…'}
    </div>
  {/if}
</section>
