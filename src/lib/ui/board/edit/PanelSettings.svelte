<script lang="ts">
  import {
    inPicture,
    mapSignals,
    reductions,
    signalPictures,
    signalsOf,
    type Bound,
    type Panel,
    type Picker,
    type Section,
    type SignalPicture
  } from '$lib/core/board';
  import { cannotGive, statisticName, statistics, summarise, valuesOf, type Statistic } from '$lib/core/series';
  import { plainPick, signalSentence, type Limit, type Signal } from '$lib/core/signal';
  import { services } from '$lib/core/services';
  import { durationFromText, spokenDuration } from '$lib/core/time';
  import { unit as unitOf } from '$lib/core/units';
  import LimitParts from '../../bench/LimitParts.svelte';
  import Margin from '../../margin/Margin.svelte';
  import type { PanelView } from '../data/panel-view.svelte';
  import { metricOf, type BoardMetric, type BoardContext } from '../data/board-context.svelte';
  import GaugeSettings from './settings/GaugeSettings.svelte';
  import LimitList from './settings/LimitList.svelte';
  import OverTimeSettings from './settings/OverTimeSettings.svelte';
  import SnapshotSettings from './settings/SnapshotSettings.svelte';
  import { openingRanges, spokenRange, withOwn } from '../panel/opening-ranges';
  import { pictureNames } from '../panel/picture-names';

  interface Props {
    panel: Panel;
    view: PanelView;
    metrics: BoardContext['metrics'];
    pickers: readonly Picker[];
    sections: readonly Section[];
    /** Where its signal is composed. */
    bench: string;
    onChange: (panel: Panel, metric?: BoardMetric) => void;
    onSection: (section: string | undefined) => void;
    onDuplicate: () => void;
    onRemove: () => void;
    onClose: () => void;
  }
  let { panel, view, metrics, pickers, sections, bench, onChange, onSection, onDuplicate, onRemove, onClose }: Props =
    $props();
  const signal = $derived(signalsOf(panel)[0]);
  const answer = $derived(view.data(panel.picture === 'snapshot' ? 'column 0' : 'main').answer);
  const code = $derived(answer?.rows[0]?.unit ?? '1');
  const unit = $derived(unitOf(code).text);
  /** What it picks when it is nothing but a pick, in whatever step and however many of its series are kept. */
  const pick = $derived(signal ? plainPick({ version: 2, rows: signal.rows, step: 'PT1M' }) : null);
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

  function follow(name: string, follows: boolean): void {
    const ignores = (panel.ignores ?? []).filter((one) => one !== name);
    const next = follows ? ignores : [...ignores, name];
    onChange({ ...panel, ignores: next.length === 0 ? undefined : next });
  }
</script>

{#snippet ofService(service: string | undefined, change: (service: string | undefined) => void)}
  <label
    >of
    <select class="part" value={service ?? ''} onchange={(event) => change(event.currentTarget.value || undefined)}>
      <option value="">all services</option>
      {#each services as { key, title } (key)}<option value={key}>{title}</option>{/each}
    </select></label
  >
{/snippet}

<Margin title="Panel" {onClose}>
  <div class="flex flex-col gap-3 text-[13.5px]">
    <label
      >Title
      <input
        class="field"
        maxlength="120"
        value={panel.title}
        onchange={(event) => onChange({ ...panel, title: event.currentTarget.value })}
      /></label
    >
    {#if signal}
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
            {#each new Set([...steps, signal.step]) as step (step)}<option value={step}>{stepWords(step)}</option
              >{/each}
          </select>.
        </p>
      {/if}
      {#if panel.picture !== 'snapshot' && panel.picture !== 'number' && panel.picture !== 'gauge'}
        <p class="leading-8">
          It shows <LimitParts
            {signal}
            onChange={(limit: Limit | undefined) => withSignal((one) => limited(one, limit))}
          />.
        </p>
      {/if}
    {/if}
    {#if 'reduce' in panel}
      <label
        >The figure is the
        <select
          class="part"
          aria-label="Figure"
          value={panel.reduce}
          onchange={(event) => onChange({ ...panel, reduce: event.currentTarget.value as 'last' })}
        >
          {#each reductions as one (one)}<option value={one}
              >{one === 'last' ? 'newest' : one === 'sum' ? 'sum' : statisticName(one)}</option
            >{/each}
        </select>
        {panel.reduce === 'last' ? '' : 'of the cells shown'}</label
      >
    {/if}
    {#if panel.picture === 'lines' || panel.picture === 'areas' || panel.picture === 'stacked' || panel.picture === 'bars'}
      <OverTimeSettings {panel} {unit} {onChange} />
    {:else if panel.picture === 'gauge'}<GaugeSettings {panel} {unit} {onChange} />
    {:else if panel.picture === 'snapshot'}
      <SnapshotSettings
        {panel}
        service={signalsOf(panel).flatMap((one) => metricOf(metrics, plainPick(one)?.metric ?? '')?.service ?? [])[0] ??
          null}
        {onChange}
      />
    {:else if panel.picture === 'number'}
      <LimitList
        limits={panel.limits ?? []}
        {unit}
        onChange={(limits: Bound[]) => onChange({ ...panel, limits: limits.length === 0 ? undefined : limits })}
      />
    {:else if panel.picture === 'table'}
      <p class="font-semibold">Columns</p>
      {#each answer?.series ?? [] as { id, name } (id)}
        <label class="flex items-center gap-2"
          ><span class="text-quiet min-w-0 flex-1 truncate">{name}</span> is called
          <input
            class="field w-[150px]! text-[13px]!"
            value={panel.names[name] ?? name}
            onchange={(event) => {
              const called = event.currentTarget.value.trim();
              const names = Object.fromEntries(Object.entries(panel.names).filter(([of]) => of !== name));
              onChange({ ...panel, names: called === '' || called === name ? names : { ...names, [name]: called } });
            }}
          /></label
        >
      {/each}
    {:else if panel.picture === 'text'}
      <label
        >Text, in CommonMark
        <textarea
          class="field num h-[260px]"
          maxlength="20000"
          value={panel.text}
          onchange={(event) => onChange({ ...panel, text: event.currentTarget.value })}></textarea></label
      >
      <p class="text-quiet text-[12px]">
        A link such as <span class="num">[Machines](/services/machines/board)</span> keeps the range and the picked values.
      </p>
    {:else if panel.picture === 'alarms'}{@render ofService(panel.service, (service) =>
        onChange({ ...panel, service })
      )}
    {:else if panel.picture === 'incidents'}
      {@render ofService(panel.service, (service) => onChange({ ...panel, service }))}
      <label
        ><input
          type="checkbox"
          checked={panel.open}
          onchange={(event) => onChange({ ...panel, open: event.currentTarget.checked })}
        /> only what is raised now</label
      >
    {:else if panel.picture === 'silent'}
      {@render ofService(panel.service, (service) => onChange({ ...panel, service }))}
      <label
        >silent for more than
        <input
          class="part num w-[70px]"
          type="number"
          min="1"
          max="44640"
          value={panel.minutes}
          onchange={(event) =>
            onChange({
              ...panel,
              minutes: Math.min(44_640, Math.max(1, Math.round(event.currentTarget.valueAsNumber || 15)))
            })}
        /> minutes</label
      >
    {:else if panel.picture === 'status'}
      <label
        >A row for each
        <select
          class="part"
          value={panel.of}
          onchange={(event) => onChange({ ...panel, of: event.currentTarget.value as 'services' | 'groups' })}
        >
          <option value="services">service</option>
          <option value="groups">group</option>
        </select></label
      >
    {/if}
    {#if signal && pickers.length > 0}
      <p>
        Follows
        {#each pickers as { name, title } (name)}
          <label class="mr-2 whitespace-nowrap"
            ><input
              type="checkbox"
              checked={!(panel.ignores ?? []).includes(name)}
              onchange={(event) => follow(name, event.currentTarget.checked)}
            />
            {title}</label
          >
        {/each}
      </p>
    {/if}
    {#if sections.length > 0}
      <label
        >Lies in
        <select
          class="part"
          value={panel.section ?? ''}
          onchange={(event) => onSection(event.currentTarget.value || undefined)}
        >
          <option value="">the top</option>
          {#each sections as { id, title } (id)}<option value={id}>{title}</option>{/each}
        </select></label
      >
    {/if}
    <p class="flex gap-2">
      <button class="btn" onclick={onDuplicate}>Duplicate</button>
      <button class="btn" onclick={onRemove}>Remove panel</button>
    </p>
  </div>
</Margin>
