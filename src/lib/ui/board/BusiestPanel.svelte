<script lang="ts">
  import { valuesOf } from '$lib/core/series';
  import type { MetricWords } from '$lib/core/signal';
  import { hour, type Instant } from '$lib/core/time';
  import { quantity, quantityText } from '$lib/core/units';
  import { hueOf } from '../chart/picture';
  import Spark from '../chart/Spark.svelte';
  import Moment from '../time/Moment.svelte';
  import type { PanelData } from './panel-data.svelte';

  interface Props {
    title: string;
    metric: MetricWords;
    data: PanelData;
    onResource: (resourceId: number) => void;
  }
  let { title, metric, data, onResource }: Props = $props();

  /** The series whose newest cell with a value is highest, among those that reported within the last cells. */
  const busiest = $derived.by(() => {
    const { answer } = data;
    if (answer === null) return null;
    const newest = Math.max(0, ...answer.series.map((series) => series.newest ?? 0));
    let found: { name: string; resourceId: number; values: Float64Array; value: number; cell: number } | null = null;
    for (const series of answer.series) {
      if ((series.newest ?? 0) < newest - 5 * 60_000) continue; // stopped reporting: not "now"
      const values = valuesOf(series);
      const cell = values.findLastIndex((value) => !Number.isNaN(value));
      const value = values[cell] ?? NaN;
      if (!Number.isNaN(value) && (found === null || value > found.value))
        found = { name: series.resource, resourceId: series.resourceId, values, value, cell };
    }
    if (found === null) return null;
    return {
      ...found,
      at: (answer.start + found.cell * answer.step) as Instant,
      earlier: found.values[found.cell - Math.round(hour / answer.step)] ?? NaN
    };
  });
  const shown = $derived(busiest ? quantity(busiest.value, metric.unit) : null);
</script>

<section class="panel min-h-[128px]" aria-label={title}>
  <header>
    <h2>{title}</h2>
    <small>{metric.title.toLowerCase()}</small>
  </header>
  {#if busiest && shown}
    <p class="leading-none">
      <span class="num text-[28px]! font-bold" data-testid="busiest">{shown.number}</span>
      <span class="text-quiet num">{shown.unit}</span>
    </p>
    <p class="mt-1"><button class="link" onclick={() => onResource(busiest.resourceId)}>{busiest.name}</button></p>
    <div class="mt-1 flex items-end gap-3">
      <Spark values={busiest.values} hue={hueOf(busiest.resourceId).hue} />
      <span class="text-quiet text-[12px]">
        at <Moment at={busiest.at} now={data.answer?.now ?? busiest.at} /><br />
        {Number.isNaN(busiest.earlier) ? '' : `${quantityText(busiest.earlier, metric.unit)} an hour before`}
      </span>
    </div>
  {:else}
    <p class="text-quiet text-[13px]">{data.answer ? 'Nothing reports at present.' : 'Reading…'}</p>
  {/if}
</section>
