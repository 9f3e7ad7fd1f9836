<script lang="ts">
  import BellPlus from '@lucide/svelte/icons/bell-plus';
  import { isPick, signalSentence, type MetricWords, type Signal } from '$lib/core/signal';
  import { duration, spokenDuration } from '$lib/core/time';
  import { statisticName } from '$lib/core/series';
  import type { Limit, RaisedTicks } from '../chart/picture';
  import LineChart from '../chart/LineChart.svelte';
  import { withRange } from '../time/shown';
  import { useReader } from '../time/reader';
  import LegendTable from './LegendTable.svelte';
  import type { PanelData } from './panel-data.svelte';
  import { pictureOf } from './picture-of';

  interface Props {
    title: string;
    signal: Signal;
    metric: MetricWords & { samplingMs: number };
    data: PanelData;
    limits?: readonly Limit[];
    raised?: readonly RaisedTicks[];
    /** Height of the chart in pixels, and rows of the legend shown unfolded. */
    height?: number;
    rows?: number;
    onResource: (resourceId: number) => void;
  }
  let { title, signal, metric, data, limits = [], raised = [], height = 150, rows = 5, onResource }: Props = $props();
  const { mayEdit } = useReader();
  /** The one series that is drawn alone; null draws all. */
  let alone = $state<number | null>(null);
  const whole = $derived(
    data.answer && data.range ? pictureOf(data.answer, data.range, metric.samplingMs, signal.digits) : null
  );
  const picture = $derived(
    whole && alone !== null && whole.lines.some(({ id }) => id === alone)
      ? { ...whole, lines: whole.lines.filter(({ id }) => id === alone) }
      : whole
  );
  const pick = $derived(signal.rows.find(isPick));
  const unitCode = $derived(data.answer?.rows[0]?.unit ?? metric.unit);
  const sentence = $derived(signalSentence(signal, metric));
  /** What the chart would otherwise hide: that points stand for longer cells than the signal's. */
  const corner = $derived(
    data.answer && data.answer.step > 60_000
      ? `each point is the ${statisticName(pick?.statistic ?? 'avg')} of ${spokenDuration(duration(data.answer.step))}`
      : ''
  );
  const gaps = $derived(whole ? whole.lines.filter(({ values }) => values.slice(0, -2).some(Number.isNaN)).length : 0);
  const resourceOf = (seriesId: number) => data.answer?.series.find(({ id }) => id === seriesId)?.resourceId;
</script>

<section class="panel" aria-label={title}>
  <header>
    <h2 class="shrink-0">{title}</h2>
    <small title={sentence}>{sentence}</small>
    <span class="text-quiet ml-auto flex shrink-0 items-center gap-3 text-[12px]">
      {corner}
      {#if gaps > 0}<span>{gaps} of {whole?.lines.length} have gaps</span>{/if}
      {#if mayEdit}
        <a
          class="btn flex items-center gap-1 px-1.5! py-0.5!"
          href={withRange(
            `/alarms/new?signal=${encodeURIComponent(JSON.stringify(signal))}&title=${encodeURIComponent(title)}`
          )}
        >
          <BellPlus size={13} />Alarm on this
        </a>
      {/if}
    </span>
  </header>
  {#if data.problem}<p class="fault text-[13px]" role="alert">{data.problem}</p>{/if}
  {#if picture && picture.lines.length > 0}
    <LineChart {picture} {limits} {raised} {height} label="{title}: {sentence}" />
    <LegendTable
      lines={whole?.lines ?? []}
      unit={unitCode}
      fraction={signal.digits}
      {rows}
      {alone}
      onAlone={(id: number) => (alone = alone === id ? null : id)}
      onOpen={(id: number) => onResource(resourceOf(id) ?? 0)}
    />
  {:else}
    <div style:min-height="{height + rows * 21 + 20}px" class="text-quiet grid place-items-center text-[13px]">
      {#if picture}<p>
          Nothing matches: no {metric.resourceType} here reports it.
          <a class="link" href="/accounts">See what the accounts bring</a>
        </p>{:else if !data.problem}Reading…{/if}
    </div>
  {/if}
</section>
