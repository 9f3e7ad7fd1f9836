<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import { cannotGive, statisticName, statistics, type Statistic } from '$lib/core/series';
  import { oneOfType } from '$lib/core/services';
  import { changePick, combinedWords, type Combine, type LabelCondition, type SignalPick } from '$lib/core/signal';
  import ConditionPart from './ConditionPart.svelte';
  import { Matching } from './matched.svelte';
  import ValueChooser from './ValueChooser.svelte';

  interface Props {
    pick: SignalPick;
    /** Undefined for a pattern, or a metric that is not known. */
    metric: { title: string; shape: string; kind: string; resourceType: string } | undefined;
    onChange: (pick: SignalPick) => void;
  }
  let { pick, metric, onChange }: Props = $props();
  const matching = new Matching();
  $effect(() => void matching.ask(pick));
  const known = $derived(matching.known);
  const labels = $derived(known?.labels ?? []);
  const offered = $derived(
    statistics.filter(
      (one) => one === pick.statistic || cannotGive(one, metric?.shape ?? 'single', metric?.kind ?? 'delta') === null
    )
  );
  const combining: readonly Combine['statistic'][] = [
    'sum',
    'avg',
    'min',
    'max',
    'count',
    'median',
    'p75',
    'p90',
    'p95',
    'p99',
    'p99.9',
    'stddev'
  ];
  /** Labels that series can be grouped by: those of the series, not of the resource's tags. */
  const groupable = $derived(
    labels
      .filter(({ name }) => !name.startsWith('tag.') && name !== 'group')
      .map(({ name, distinct }) => ({ value: name, count: distinct }))
  );

  const change = (to: Partial<Omit<SignalPick, 'combine'>> & { combine?: Combine | undefined }) =>
    onChange(changePick(pick, { combine: pick.combine, ...to }));

  function addCondition(): void {
    const used = new Set(pick.where.map(({ label }) => label));
    const free =
      labels.find(({ name, values }) => !used.has(name) && values.length > 1) ??
      labels.find(({ name }) => !used.has(name));
    const value = free?.values[0]?.value;
    if (free && value !== undefined) change({ where: [...pick.where, { label: free.name, is: [value] }] });
  }

  const replace = (index: number, condition: LabelCondition | null) =>
    change({ where: pick.where.flatMap((one, at) => (at === index ? (condition ?? []) : [one])) });
</script>

<div class="flex min-w-0 flex-1 items-start gap-3">
  <!-- no paragraph: a chooser holds blocks -->
  <div class="min-w-0 flex-1 text-[14.5px] leading-[2]">
    <select
      class="part"
      aria-label="Statistic of {pick.name}"
      value={pick.statistic}
      onchange={(event) => change({ statistic: event.currentTarget.value as Statistic })}
    >
      {#each offered as one (one)}<option value={one}>{statisticName(one)}</option>{/each}
    </select>
    of <strong>{metric?.title ?? pick.metric}</strong>
    {#each pick.where as condition, index (index)}
      {index === 0 ? 'where' : 'and'}
      <ConditionPart
        {condition}
        {labels}
        empties={known?.left[index] === 0 && (index === 0 ? known.total : (known.left[index - 1] ?? 0)) > 0}
        onChange={(to: LabelCondition) => replace(index, to)}
        onRemove={() => replace(index, null)}
      />
    {/each}
    <button
      class="text-deep inline-flex items-center align-middle text-[13px]"
      onclick={addCondition}
      disabled={labels.length === 0}><Plus size={13} />{pick.where.length === 0 ? 'where …' : 'and …'}</button
    >,
    <select
      class="part"
      aria-label="How {pick.name} is combined"
      title={pick.combine ? combinedWords(pick.combine) : undefined}
      value={pick.combine?.statistic ?? ''}
      onchange={(event) =>
        change({
          combine:
            event.currentTarget.value === ''
              ? undefined
              : { statistic: event.currentTarget.value as Combine['statistic'], by: pick.combine?.by ?? [] }
        })}
    >
      <option value="">each {metric ? oneOfType(metric.resourceType) : 'series'} for itself</option>
      {#each combining as one (one)}<option value={one}
          >{one === 'sum'
            ? 'added up'
            : one === 'avg'
              ? 'averaged'
              : one === 'count'
                ? 'counted'
                : `the ${statisticName(one)}`}</option
        >{/each}
    </select>
    {#if pick.combine}
      <span class="whitespace-nowrap"
        >by <ValueChooser
          label="labels to group by"
          values={groupable}
          distinct={groupable.length}
          chosen={pick.combine.by}
          onChange={(by: string[]) => pick.combine && change({ combine: { ...pick.combine, by } })}
          none="nothing: all in one"
        /></span
      >
    {/if}
  </div>
  <span
    class={['text-quiet shrink-0 pt-1.5 text-[12.5px]', known?.matched === 0 && 'fault']}
    data-testid="matched-{pick.name}"
  >
    {known === null ? '' : known.total === 0 ? 'no series' : `${known.matched} of ${known.total} series`}
  </span>
</div>
