<script lang="ts">
  import { cannotGive, statisticName, statistics, type Statistic } from '$lib/core/series';
  import { oneOfType } from '$lib/core/services';
  import { spokenCondition, type SignalPick } from '$lib/core/signal';
  import type { PickableMetric, PickableResource } from './pickable';

  interface Props {
    pick: SignalPick;
    metrics: readonly PickableMetric[];
    accounts: readonly string[];
    resources: readonly PickableResource[];
    /** After the names of its parts, where there are several. */
    of?: string;
    onChange: (pick: SignalPick) => void;
  }
  let { pick, metrics, accounts, resources, of = '', onChange }: Props = $props();
  type NamedPart = 'account' | 'resource';
  const named = (name: string) => (of === '' ? name : `${name}, ${of}`);
  const metric = $derived(metrics.find(({ name }) => name === pick.metric));
  const chosen = (label: NamedPart): string => {
    const condition = pick.where.find((one) => one.label === label && 'is' in one && one.is.length === 1);
    return condition && 'is' in condition ? (condition.is[0] ?? '') : '';
  };
  /** Conditions that this sentence has no part for, in words. */
  const others = $derived(
    pick.where.filter(
      (condition) =>
        !('is' in condition && condition.is.length === 1 && ['account', 'resource'].includes(condition.label))
    )
  );
  const account = $derived(chosen('account'));
  /** Statistics that a metric can give. */
  const offeredOf = (of: PickableMetric | undefined) =>
    statistics.filter((statistic) => cannotGive(statistic, of?.shape ?? 'single', of?.kind ?? 'gauge') === null);

  function chooseMetric(name: string): void {
    const offered = offeredOf(metrics.find((one) => one.name === name));
    onChange({ ...pick, metric: name, statistic: offered.includes(pick.statistic) ? pick.statistic : 'avg' });
  }

  function choose(label: NamedPart, value: string): void {
    const rest = pick.where.filter((condition) => condition.label !== label);
    onChange({ ...pick, where: value === '' ? rest : [...rest, { label, is: [value] }] });
  }
</script>

<select
  class="part"
  aria-label={named('Statistic')}
  value={pick.statistic}
  onchange={(event) => onChange({ ...pick, statistic: event.currentTarget.value as Statistic })}
  >{#each offeredOf(metric) as statistic (statistic)}<option value={statistic}>{statisticName(statistic)}</option
    >{/each}</select
>
<select
  class="part"
  aria-label={named('Metric')}
  value={pick.metric}
  onchange={(event) => chooseMetric(event.currentTarget.value)}
  >{#each metrics as { name, title } (name)}<option value={name}>{title.toLowerCase()}</option>{/each}</select
>
of
<select
  class="part"
  aria-label={named('Resource')}
  value={chosen('resource')}
  onchange={(event) => choose('resource', event.currentTarget.value)}
>
  <option value="">each {oneOfType(metric?.resourceType)}</option>
  {#each resources.filter((resource) => resource.type === metric?.resourceType && (account === '' || resource.account === account)) as { id, name } (id)}<option
      >{name}</option
    >{/each}
</select>
in
<select
  class="part"
  aria-label={named('Account')}
  value={account}
  onchange={(event) => choose('account', event.currentTarget.value)}
>
  <option value="">every account</option>
  {#each accounts as name (name)}<option>{name}</option>{/each}
</select>
{#if others.length > 0}where {others.map(spokenCondition).join(' and ')}{/if}
