<script lang="ts">
  import { untrack } from 'svelte';
  import { severities, type Severity } from '$lib/core/alarm';
  import { budgetSchema, dimensionWords, groupWords, type Budget, type CostDimension } from '$lib/core/cost';
  import DefinitionForm from '../forms/DefinitionForm.svelte';
  import RoutePart from '../forms/RoutePart.svelte';
  import SeverityPart from '../forms/SeverityPart.svelte';
  import { useReader } from '../time/reader';
  import TriedBudget from './TriedBudget.svelte';

  interface Props {
    /** What is stored; null for a new one. */
    stored: {
      readonly id: number;
      readonly value: Budget;
      readonly version: number;
      readonly changedBy: string;
      readonly alarmId: number | null;
    } | null;
    budget: Budget;
    /** What costs can be narrowed to. */
    choices: readonly { readonly by: CostDimension; readonly values: readonly { value: string; title: string }[] }[];
    routes: readonly { readonly id: number; readonly name: string }[];
    today: string;
  }
  let { stored, budget: given, choices, routes, today }: Props = $props();
  const { mayEdit } = useReader();
  let budget = $state(untrack(() => structuredClone(given)));
  const unused = $derived(choices.filter(({ by }) => !budget.filters.some((filter) => filter.by === by)));
  const valuesOf = (by: CostDimension) => choices.find((one) => one.by === by)?.values ?? [];
  /** The choices with what is chosen already, though nothing is billed for it any more. */
  const valuesWith = (by: CostDimension, chosen: string) => {
    const values = valuesOf(by);
    return values.some(({ value }) => value === chosen) ? values : [{ value: chosen, title: '' }, ...values];
  };
  const periodKinds = { month: 'month', quarter: 'quarter', own: 'number of days' } as const;

  function setPeriod(kind: string): void {
    budget.period = kind === 'own' ? { kind, from: today, days: 14 } : { kind: kind === 'quarter' ? kind : 'month' };
  }
  function addLevel(): void {
    const last = budget.levels.at(-1);
    const severity: Severity = severities[severities.indexOf(last?.severity ?? 'warning') + 1] ?? 'critical';
    budget.levels.push({ severity, percent: (last?.percent ?? 90) + 10 });
  }
</script>

<DefinitionForm
  {stored}
  bind:value={budget}
  {given}
  schema={budgetSchema}
  path="/budgets"
  field="budget"
  what="budget"
  label="Budget"
  example="All accounts"
  back="/cost"
  saved="The budget and its alarm are saved."
  question="Remove it and its alarm? Incidents stay in the history."
  class="mb-2.5"
>
  <fieldset class="sentence text-[15px]!" disabled={!mayEdit}>
    <legend class="sr-only">Whom it notifies, of which costs, and from which amount on</legend>
    <p>
      Notify
      <RoutePart bind:route={budget.route} {routes} byList="by the list of routes" />
      when
      {#if budget.filters.length === 0}<b>all accounts</b>{:else}the costs{/if}
      {#each budget.filters as filter, index (filter.by)}
        {index === 0 ? 'of' : 'and of'} the {dimensionWords(filter.by)}
        <select class="part" aria-label="Which {dimensionWords(filter.by)}" bind:value={filter.values[0]}
          >{#each valuesWith(filter.by, filter.values[0] ?? '') as { value, title } (value)}<option {value}
              >{groupWords(filter.by, value, title)}</option
            >{/each}</select
        >{#each filter.values.slice(1) as value (value)}, {groupWords(filter.by, value, '')}{/each}
        <button
          type="button"
          class="btn"
          aria-label="Without {dimensionWords(filter.by)}"
          onclick={() => budget.filters.splice(index, 1)}>×</button
        >
      {/each}
      {#if mayEdit && unused.length > 0}
        <select
          class="part"
          aria-label="Narrow to"
          value=""
          onchange={(event) => {
            const by = event.currentTarget.value as CostDimension;
            event.currentTarget.value = '';
            budget.filters.push({ by, values: [valuesOf(by)[0]?.value ?? ''] });
          }}
          ><option value="">narrow to…</option>{#each unused as { by } (by)}<option value={by}
              >{dimensionWords(by)}</option
            >{/each}</select
        >
      {/if}
      <select class="part" aria-label="Of what" bind:value={budget.on}
        ><option value="expected">are expected to pass</option><option value="actual">have passed</option></select
      >
      <input class="part w-[110px]" aria-label="Amount" type="number" min="0" step="any" bind:value={budget.amount} />
      {budget.currency} a
      <select
        class="part"
        aria-label="Period"
        value={budget.period.kind}
        onchange={(event) => setPeriod(event.currentTarget.value)}
        >{#each Object.entries(periodKinds) as [kind, words] (kind)}<option value={kind}>{words}</option>{/each}</select
      >{#if budget.period.kind === 'own'}, which is
        <input
          class="part w-[60px]"
          aria-label="Days"
          type="number"
          min="1"
          max="366"
          bind:value={budget.period.days}
        />
        from
        <input class="part" aria-label="First day" type="date" bind:value={budget.period.from} />{/if},
      <select class="part" aria-label="Which amounts" bind:value={budget.basis}
        ><option value="amortised">with what is paid up front spread over its days</option><option value="billed"
          >as billed</option
        ></select
      >.
    </p>
    {#each budget.levels as level, index (index)}
      <p class="mt-1">
        Raise it as
        <SeverityPart label="Severity {index + 1}" bind:severity={level.severity} />
        above
        <input
          class="part w-[64px]"
          aria-label="Share {index + 1}"
          type="number"
          min="1"
          step="any"
          bind:value={level.percent}
        />
        % of the amount.
        {#if mayEdit && budget.levels.length > 1}<button
            type="button"
            class="btn"
            aria-label="Remove level {index + 1}"
            onclick={() => budget.levels.splice(index, 1)}>×</button
          >{/if}
      </p>
    {/each}
    {#if mayEdit && budget.levels.length < 4}<button type="button" class="btn" onclick={addLevel}>Add a level</button
      >{/if}
  </fieldset>
</DefinitionForm>
<TriedBudget {budget} />
