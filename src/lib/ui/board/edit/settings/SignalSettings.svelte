<script lang="ts">
  import { inPicture, mapSignals, signalPictures, type Panel, type SignalPicture } from '$lib/core/board';
  import {
    cannotGive,
    statisticName,
    statistics,
    summarise,
    valuesOf,
    type QueryAnswer,
    type Statistic
  } from '$lib/core/series';
  import { plainPick, signalSentence, type Limit, type Signal } from '$lib/core/signal';
  import { durationFromText, spokenDuration } from '$lib/core/time';
  import { unit as unitOf } from '$lib/core/units';
  import LimitParts from '../../../bench/LimitParts.svelte';
  import { metricOf, type BoardContext } from '../../data/board-context.svelte';
  import { openingRanges, spokenRange, withOwn } from '../../panel/opening-ranges';
  import { pictureNames } from '../../panel/picture-names';

  interface Props {
    panel: Panel;
    /** Its first signal. */
    signal: Signal;
    answer: QueryAnswer | null;
    metrics: BoardContext['metrics'];
    /** Where its signal is composed. */
    bench: string;
    onChange: (panel: Panel) => void;
  }
  let { panel, signal, answer, metrics, bench, onChange }: Props = $props();
  const code = $derived(answer?.rows[0]?.unit ?? '1');
  /** What it picks when it is nothing but a pick, in whatever step and however many of its series are shown. */
  const pick = $derived(plainPick({ version: 2, rows: signal.rows, step: 'PT1M' }));
  const metric = $derived(pick ? metricOf(metrics, pick.metric) : undefined);
  const steps = ['PT1M', 'PT5M', 'PT15M', 'PT1H', 'P1D', 'auto'] as const;

  function show(picture: SignalPicture): void {
    const most = (answer?.series ?? []).reduce(
      (largest, one) => Math.max(largest, summarise(valuesOf(one)).max || 0),
      0
    );
    const next = inPicture(panel, picture, unitOf(code).bounds ?? [0, most > 0 ? most * 1.2 : 1]);
    if (next) onChange(next);
  }
  const withSignal = (change: (signal: Signal) => Signal) => onChange(mapSignals(panel, change));
  const limited = ({ limit: _, ...others }: Signal, limit: Limit | undefined): Signal =>
    limit ? { ...others, limit } : others;
  const withStatistic = (statistic: Statistic) =>
    withSignal((one) => ({ ...one, rows: one.rows.map((row) => ('metric' in row ? { ...row, statistic } : row)) }));
  const stepWords = (step: string) =>
    step === 'auto' ? 'what suits the range' : spokenDuration(durationFromText(step));
</script>

<p class="leading-8">
  Opens with
  <select
    class="part"
    aria-label="Range the panel opens with"
    value={panel.range ?? ''}
    onchange={(event) => onChange({ ...panel, range: event.currentTarget.value || undefined })}
  >
    {#each withOwn(openingRanges, panel.range) as range (range)}<option value={range}
        >{range === '' ? 'the range of the board' : spokenRange(range)}</option
      >{/each}
  </select>.
</p>
<p class="leading-8">
  Shows as
  <select
    class="part"
    aria-label="Picture"
    value={panel.picture}
    onchange={(event) => show(event.currentTarget.value as SignalPicture)}
  >
    {#each signalPictures as picture (picture)}<option value={picture}>{pictureNames[picture]}</option>{/each}
  </select>
  {#if panel.picture !== 'snapshot'}the {signalSentence(signal, (name) => metricOf(metrics, name)).replace(
      /^./,
      (first) => first.toLowerCase()
    )}.{/if}
  <a class="link" href={bench}>Change it on the bench</a>
</p>
{#if pick && panel.picture !== 'snapshot'}
  <p class="leading-8">
    Each cell is the
    <select
      class="part"
      aria-label="Statistic"
      value={pick.statistic}
      onchange={(event) => withStatistic(event.currentTarget.value as Statistic)}
    >
      {#each statistics.filter((one) => !metric || cannotGive(one, metric.shape, metric.kind) === null) as statistic (statistic)}
        <option value={statistic}>{statisticName(statistic)}</option>
      {/each}
    </select>
    of
    <select
      class="part"
      aria-label="Step"
      value={signal.step}
      onchange={(event) => withSignal((one) => ({ ...one, step: event.currentTarget.value }))}
    >
      {#each new Set([...steps, signal.step]) as step (step)}<option value={step}>{stepWords(step)}</option>{/each}
    </select>.
  </p>
{/if}
{#if panel.picture !== 'snapshot' && panel.picture !== 'number' && panel.picture !== 'gauge'}
  <p class="leading-8">
    It shows <LimitParts {signal} onChange={(limit: Limit | undefined) => withSignal((one) => limited(one, limit))} />.
  </p>
{/if}
