<script lang="ts">
  import PencilRuler from '@lucide/svelte/icons/pencil-ruler';
  import X from '@lucide/svelte/icons/x';
  import BellPlus from '@lucide/svelte/icons/bell-plus';
  import {
    fixedStepOf,
    plainPick,
    signalSentence,
    steady,
    type MetricWords,
    type Signal,
    type WordsOf
  } from '$lib/core/signal';
  import { duration, spokenDuration, textFromDuration } from '$lib/core/time';
  import { statisticName } from '$lib/core/series';
  import type { Limit, RaisedTicks } from '../chart/picture';
  import TimeChart from '../chart/TimeChart.svelte';
  import { withRange } from '../time/shown';
  import { useReader } from '../time/reader';
  import LegendTable from './LegendTable.svelte';
  import type { PanelData } from './panel-data.svelte';
  import { pictureOf } from './picture-of';

  interface Props {
    title: string;
    signal: Signal;
    /** The words of its metrics. */
    words: MetricWords | WordsOf;
    /** The slowest sampling of its metrics. */
    samplingMs: number;
    data: PanelData;
    limits?: readonly Limit[];
    raised?: readonly RaisedTicks[];
    /** Height of the chart in pixels, and rows of the legend shown unfolded. */
    height?: number;
    rows?: number;
    onResource: (resourceId: number) => void;
    /** Takes it off the board, where that can be done. */
    onRemove?: (() => void) | null;
  }
  let {
    title,
    signal,
    words,
    samplingMs,
    data,
    limits = [],
    raised = [],
    height = 150,
    rows = 5,
    onResource,
    onRemove = null
  }: Props = $props();
  const { mayEdit } = useReader();
  /** The one series that is drawn alone; null draws all. */
  let alone = $state<number | null>(null);
  const whole = $derived(
    data.answer && data.range ? pictureOf(data.answer, data.range, samplingMs, signal.digits) : null
  );
  const picture = $derived(
    whole && alone !== null && whole.lines.some(({ id }) => id === alone)
      ? { ...whole, lines: whole.lines.filter(({ id }) => id === alone) }
      : whole
  );
  const pick = $derived(plainPick(signal));
  const unitCode = $derived(data.answer?.rows[0]?.unit ?? '1');
  const sentence = $derived(signalSentence(signal, words));
  /** What the chart would otherwise hide: that points stand for longer cells than the signal's. */
  const corner = $derived.by(() => {
    const step = data.answer?.step ?? 0;
    if (step <= (fixedStepOf(signal) ?? 60_000)) return '';
    const length = spokenDuration(duration(step));
    return pick ? `each point is the ${statisticName(pick.statistic)} of ${length}` : `each point stands for ${length}`;
  });
  const gaps = $derived(whole ? whole.lines.filter(({ values }) => values.slice(0, -2).some(Number.isNaN)).length : 0);
  /** What an alarm on it would watch. */
  const watched = $derived(steady(signal, textFromDuration(duration(data.answer?.step ?? 60_000))));
  const resourceOf = (seriesId: number) => data.answer?.series.find(({ id }) => id === seriesId)?.resourceId;
</script>

<section class="panel" aria-label={title}>
  <header>
    <h2 class="max-w-[60%] shrink-0 truncate" {title}>{title}</h2>
    <small title={sentence}>{sentence}</small>
    <span class="text-quiet ml-auto flex shrink-0 items-center gap-3 text-[12px]">
      {corner}
      {#if gaps > 0}<span>{gaps} of {whole?.lines.length} have gaps</span>{/if}
      <a
        class="text-quiet"
        title="Open it on the bench"
        aria-label="Open {title} on the bench"
        href={withRange(`/bench?signal=${encodeURIComponent(JSON.stringify(signal))}`)}><PencilRuler size={14} /></a
      >
      {#if mayEdit && watched}
        <a
          class="btn flex items-center gap-1 px-1.5! py-0.5!"
          href={withRange(
            `/alarms/new?signal=${encodeURIComponent(JSON.stringify(watched))}&title=${encodeURIComponent(title)}`
          )}
        >
          <BellPlus size={13} />Alarm on this
        </a>
      {/if}
      {#if onRemove}<button class="text-quiet" aria-label="Take {title} away" onclick={onRemove}><X size={14} /></button
        >{/if}
    </span>
  </header>
  {#if data.problem}<p class="fault text-[13px]" role="alert">{data.problem}</p>{/if}
  {#if picture && picture.lines.length > 0}
    <TimeChart {picture} {limits} {raised} {height} label="{title}: {sentence}" />
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
          Nothing matches: no resource here reports it.
          <a class="link" href="/accounts">See what the accounts bring</a>
        </p>{:else if !data.problem}Reading…{/if}
    </div>
  {/if}
</section>
