<script lang="ts">
  import { untrack } from 'svelte';
  import { severities, type Severity } from '$lib/core/alarm';
  import { minutesText, objectiveSchema, proposedLevels, type Objective } from '$lib/core/objective';
  import { plainPick, signalSubject, type Signal, type SignalPick } from '$lib/core/signal';
  import type { PickableMetric, PickableResource } from '../alarm/pickable';
  import SignalPickClause from '../alarm/SignalPickClause.svelte';
  import DefinitionForm from '../forms/DefinitionForm.svelte';
  import RoutePart from '../forms/RoutePart.svelte';
  import SeverityPart from '../forms/SeverityPart.svelte';
  import { useReader } from '../time/reader';
  import TriedObjective from './TriedObjective.svelte';

  interface Props {
    /** What is stored; null for a new one. */
    stored: {
      readonly id: number;
      readonly value: Objective;
      readonly version: number;
      readonly changedBy: string;
      readonly alarmId: number | null;
    } | null;
    objective: Objective;
    choices: {
      readonly metrics: readonly PickableMetric[];
      readonly accounts: readonly string[];
      readonly resources: readonly PickableResource[];
      /** Saved signals. */
      readonly signals: readonly { readonly id: number; readonly name: string; readonly signal: Signal }[];
    };
    routes: readonly { readonly id: number; readonly name: string }[];
  }
  let { stored, objective: given, choices, routes }: Props = $props();
  const { mayEdit, zone } = useReader();
  let objective = $state(untrack(() => structuredClone(given)));
  const periods = { rolling: 'number of days', month: 'month', quarter: 'quarter' } as const;
  const kind = $derived(objective.period.kind === 'rolling' ? 'rolling' : objective.period.unit);
  const isProposed = $derived(
    JSON.stringify(proposedLevels($state.snapshot(objective))) === JSON.stringify($state.snapshot(objective.levels))
  );

  function setPeriod(to: string): void {
    objective.period =
      to === 'rolling'
        ? { kind: 'rolling', days: 30 }
        : { kind: 'calendar', unit: to === 'quarter' ? to : 'month', zone };
  }
  function setMeasure(to: string): void {
    const { of } = $state.snapshot(objective);
    if (to === of.kind) return;
    objective.of =
      to === 'share' && of.kind === 'time'
        ? { kind: 'share', good: of.signal, all: of.signal }
        : { kind: 'time', signal: of.kind === 'share' ? of.good : of.signal, is: 'below', limit: 1 };
  }
  const withPick = (signal: Signal, pick: SignalPick): Signal => ({ ...signal, rows: [pick] });
  function addLevel(): void {
    const last = objective.levels.at(-1);
    const severity: Severity = severities[severities.indexOf(last?.severity ?? 'warning') + 1] ?? 'critical';
    objective.levels.push({ severity, rate: (last?.rate ?? 1) * 2, longMinutes: 60, shortMinutes: 5 });
  }
</script>

{#snippet clause(name: string, signal: Signal, onChange: (to: Signal) => void)}
  {@const pick = plainPick(signal)}
  {@const saved = choices.signals.find((one) => JSON.stringify(one.signal) === JSON.stringify(signal))}
  {#if pick}<SignalPickClause
      {pick}
      metrics={choices.metrics}
      accounts={choices.accounts}
      resources={choices.resources}
      of={name}
      onChange={(to: SignalPick) => onChange(withPick(signal, to))}
    />{:else}<b>{signalSubject(signal, (metric) => choices.metrics.find((one) => one.name === metric))}</b>{/if}
  {#if choices.signals.length > 0}
    <select
      class="part"
      aria-label={name === '' ? 'Saved signal' : `Saved signal, ${name}`}
      value={saved?.id ?? ''}
      onchange={(event) => {
        const chosen = choices.signals.find(({ id }) => id === Number(event.currentTarget.value));
        if (chosen) onChange(structuredClone(chosen.signal));
      }}
      ><option value="">or a saved signal…</option>{#each choices.signals as one (one.id)}<option value={one.id}
          >{one.name}</option
        >{/each}</select
    >
  {/if}
{/snippet}

<DefinitionForm
  {stored}
  bind:value={objective}
  {given}
  schema={objectiveSchema}
  path="/objectives"
  field="objective"
  what="promise"
  label="Promise"
  example="Ticket sales"
  back="/objectives"
  saved="The promise and its alarm are saved."
  question="Remove it and its alarm? Incidents stay in the history."
  class="mb-2.5"
>
  <fieldset class="sentence text-[15px]!" disabled={!mayEdit}>
    <legend class="sr-only">What is promised, of what, and over which period</legend>
    <p>
      In every
      {#if objective.period.kind === 'rolling'}<input
          class="part w-[60px]"
          aria-label="Days"
          type="number"
          min="1"
          max="366"
          bind:value={objective.period.days}
        />{/if}
      <select class="part" aria-label="Period" value={kind} onchange={(event) => setPeriod(event.currentTarget.value)}
        >{#each Object.entries(periods) as [value, words] (value)}<option {value}
            >{value === 'rolling' && kind === 'rolling' ? 'days' : words}</option
          >{/each}</select
      >,
      <input
        class="part w-[92px]"
        aria-label="Target"
        type="number"
        min="0"
        max="100"
        step="any"
        bind:value={objective.targetPercent}
      />
      %
      <select
        class="part"
        aria-label="Counted by"
        value={objective.of.kind}
        onchange={(event) => setMeasure(event.currentTarget.value)}
        ><option value="time">of the time</option><option value="share">of all</option></select
      >
      {#if objective.of.kind === 'share'}
        that {@render clause('all', objective.of.all, (to) => {
          if (objective.of.kind === 'share') objective.of.all = to;
        })}
        counts, {@render clause('good', objective.of.good, (to) => {
          if (objective.of.kind === 'share') objective.of.good = to;
        })}
        counts as good,
      {:else}
        {@render clause('', objective.of.signal, (to) => {
          if (objective.of.kind === 'time') objective.of.signal = to;
        })}
        is
        <select class="part" aria-label="Side" bind:value={objective.of.is}
          ><option>below</option><option>above</option></select
        >
        <input class="part w-[92px]" aria-label="Limit" type="number" step="any" bind:value={objective.of.limit} />,
      {/if}
      <select
        class="part"
        aria-label="Planned maintenance"
        value={String(objective.leaveOutMaintenance)}
        onchange={(event) => (objective.leaveOutMaintenance = event.currentTarget.value === 'true')}
        ><option value="true">leaving out planned maintenance</option><option value="false"
          >planned maintenance included</option
        ></select
      >.
    </p>
    <p class="mt-1">
      {#if objective.levels.length > 0}Notify
        <RoutePart bind:route={objective.route} {routes} byList="by the list of routes" />
        when the error budget is used{:else}Nobody is notified when the error budget is used.{/if}
    </p>
    {#each objective.levels as level, index (index)}
      <p class="mt-1">
        <input
          class="part w-[70px]"
          aria-label="Rate {index + 1}"
          type="number"
          min="0"
          step="any"
          bind:value={level.rate}
        />
        times too fast over
        <input
          class="part w-[76px]"
          aria-label="Long span {index + 1}"
          type="number"
          min="5"
          step="5"
          bind:value={level.longMinutes}
        />
        min <span class="text-quiet">({minutesText(level.longMinutes || 0)})</span> and over
        <input
          class="part w-[64px]"
          aria-label="Short span {index + 1}"
          type="number"
          min="5"
          step="5"
          bind:value={level.shortMinutes}
        />
        min, as
        <SeverityPart label="Severity {index + 1}" bind:severity={level.severity} />
        {#if mayEdit}<button
            type="button"
            class="btn"
            aria-label="Remove level {index + 1}"
            onclick={() => objective.levels.splice(index, 1)}>×</button
          >{/if}
      </p>
    {/each}
    {#if mayEdit}
      <p class="mt-1 flex gap-2">
        {#if objective.levels.length < 4}<button type="button" class="btn" onclick={addLevel}>Add a level</button>{/if}
        {#if !isProposed}<button
            type="button"
            class="btn"
            onclick={() => (objective.levels = proposedLevels($state.snapshot(objective)))}
            >Take levels that suit the target</button
          >{/if}
      </p>
    {/if}
  </fieldset>
</DefinitionForm>
<TriedObjective {objective} />
