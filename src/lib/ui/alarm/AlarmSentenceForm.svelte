<script lang="ts">
  import { mostWindowCells, severities, type AlarmDefinition } from '$lib/core/alarm';
  import { cannotGive, statisticName, statistics, type Statistic } from '$lib/core/series';
  import { plainPick, signalSubject, spokenCondition, type SignalPick } from '$lib/core/signal';
  import { oneOfType } from '$lib/core/services';
  import { durationFromText, spokenDuration } from '$lib/core/time';
  import { unit as unitOf } from '$lib/core/units';
  import SeverityHoist from './SeverityHoist.svelte';

  interface Props {
    /** The alarm, changed in place. */
    alarm: AlarmDefinition;
    metrics: readonly {
      name: string;
      title: string;
      unit: string;
      shape: string;
      kind: string;
      resourceType: string;
    }[];
    accounts: readonly string[];
    resources: readonly { id: number; name: string; account: string; type: string }[];
    disabled: boolean;
    /** UCUM code of the threshold. */
    unit: string;
    /** Where the signal is composed. */
    composing: string;
  }
  let { alarm = $bindable(), metrics, accounts, resources, disabled, unit, composing }: Props = $props();
  const steps = ['PT1M', 'PT5M', 'PT15M', 'PT1H'];
  type NamedPart = 'account' | 'resource';
  const nothing: SignalPick = { name: 'a', metric: '', where: [], statistic: 'avg' };
  /** The only pick of a signal that this sentence has parts for; null of one that is composed on the bench. */
  const single = $derived(plainPick(alarm.signal));
  const pick = $derived(single ?? nothing);
  const metric = $derived(metrics.find(({ name }) => name === pick.metric));
  const chosen = (label: NamedPart): string => {
    const condition = pick.where.find((one) => one.label === label && 'is' in one);
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
  /** Statistics that the metric can give. */
  const offered = $derived(
    statistics.filter((statistic) => cannotGive(statistic, metric?.shape ?? 'single', metric?.kind ?? 'gauge') === null)
  );

  const subject = $derived(signalSubject(alarm.signal, (name) => metrics.find((one) => one.name === name)));

  function change(to: Partial<SignalPick>): void {
    alarm.signal.rows = [{ ...pick, ...to }];
  }

  function chooseMetric(name: string): void {
    change({ metric: name });
    if (!offered.includes(pick.statistic)) change({ statistic: 'avg' });
  }

  function choose(label: NamedPart, value: string): void {
    const rest = pick.where.filter((condition) => condition.label !== label);
    change({ where: value === '' ? rest : [...rest, { label, is: [value] }] });
  }

  /** Of the two numbers of the window, the one that was typed counts: the other one follows it. */
  function chooseOf(of: number): void {
    alarm.rule.window = { of, needs: Math.min(alarm.rule.window.needs, of) };
  }
  function chooseNeeds(needs: number): void {
    alarm.rule.window = { needs, of: Math.max(alarm.rule.window.of, needs) };
  }
</script>

<fieldset {disabled} class="sentence">
  Raise <SeverityHoist severity={alarm.severity} />
  <select class="part" aria-label="Severity" bind:value={alarm.severity}
    >{#each severities as severity (severity)}<option>{severity}</option>{/each}</select
  >
  {#if single}
    when the
    <select
      class="part"
      aria-label="Statistic"
      value={pick.statistic}
      onchange={(event) => change({ statistic: event.currentTarget.value as Statistic })}
      >{#each offered as statistic (statistic)}<option value={statistic}>{statisticName(statistic)}</option
        >{/each}</select
    >
    <select
      class="part"
      aria-label="Metric"
      value={pick.metric}
      onchange={(event) => chooseMetric(event.currentTarget.value)}
      >{#each metrics as { name, title } (name)}<option value={name}>{title.toLowerCase()}</option>{/each}</select
    >
    of
    <select
      class="part"
      aria-label="Resource"
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
      aria-label="Account"
      value={account}
      onchange={(event) => choose('account', event.currentTarget.value)}
    >
      <option value="">every account</option>
      {#each accounts as name (name)}<option>{name}</option>{/each}
    </select>
    {#if others.length > 0}where {others.map(spokenCondition).join(' and ')}{/if}
  {:else}
    when <a class="part" href={composing} title="Change it on the bench">{subject}</a>
  {/if}
  is
  <select class="part" aria-label="Direction" bind:value={alarm.rule.condition.is}
    ><option>above</option><option>below</option></select
  >
  <span class="whitespace-nowrap"
    ><input
      class="part w-[9ch] text-right"
      type="number"
      step="any"
      required
      aria-label="Threshold"
      bind:value={alarm.rule.condition.threshold}
    />
    {unitOf(unit).text}</span
  >
  in
  <span class="whitespace-nowrap">
    <input
      class="part w-[4ch] text-center"
      type="number"
      min="1"
      max={mostWindowCells}
      required
      aria-label="Windows needed"
      value={alarm.rule.window.needs}
      onchange={(event) => chooseNeeds(event.currentTarget.valueAsNumber)}
    />
    of the last
    <input
      class="part w-[4ch] text-center"
      type="number"
      min="1"
      max={mostWindowCells}
      required
      aria-label="Windows looked at"
      value={alarm.rule.window.of}
      onchange={(event) => chooseOf(event.currentTarget.valueAsNumber)}
    />
  </span>
  windows of
  <span class="whitespace-nowrap"
    ><select class="part" aria-label="Length of a window" bind:value={alarm.signal.step}
      >{#each [...new Set([...steps, alarm.signal.step])] as step (step)}<option value={step}
          >{spokenDuration(durationFromText(step))}</option
        >{/each}</select
    >.</span
  >
  When data are missing,
  <span class="whitespace-nowrap"
    ><select class="part" aria-label="When data are missing" bind:value={alarm.rule.whenMissing}
      ><option value="indeterminate">say it is indeterminate</option><option value="keep">keep the state</option
      ></select
    >.</span
  >
</fieldset>
