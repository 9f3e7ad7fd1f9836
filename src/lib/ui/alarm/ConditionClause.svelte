<script lang="ts">
  import { verbOf, verbs, withVerb, type Condition, type Verb } from '$lib/core/alarm';
  import { durationFromText, spokenDuration } from '$lib/core/time';
  import { unit as unitOf } from '$lib/core/units';
  import ExceptionsClause from './ExceptionsClause.svelte';
  import NumberPart from './NumberPart.svelte';

  interface Props {
    condition: Condition;
    /** UCUM code of its numbers. */
    unit: string;
    /** Before the names of its parts, when a sentence has several conditions. */
    of?: string;
    /** Of a combined alarm: how many parts it has. */
    parts?: number | undefined;
    onChange: (condition: Condition) => void;
  }
  let { condition, unit, of = '', parts = 0, onChange }: Props = $props();
  const unitText = $derived(unitOf(unit).text);
  const named = (name: string) => (of === '' ? name : `${name}, ${of}`);
  const groups: readonly (readonly [string, readonly Verb[]])[] = [
    ['Against a threshold', ['above', 'below', 'outside', 'inside']],
    ['Against what is usual', ['above-band', 'below-band', 'outside-band']],
    ['Against before', ['rise', 'fall', 'either']],
    ['Against its peers', ['above-peers', 'below-peers', 'outside-peers']],
    ['Ahead', ['will-be-above', 'will-be-below']],
    ['Silence', ['absence']]
  ];
  const overs = ['PT5M', 'PT15M', 'PT30M', 'PT1H', 'PT3H', 'P1D'];
  const silences = ['PT5M', 'PT10M', 'PT30M', 'PT1H', 'PT6H', 'P1D'];
  const aheads = ['PT6H', 'PT12H', 'P1D', 'P2D', 'P4D', 'P7D'];
  type Needs = Extract<Condition, { kind: 'combined' }>['needs'];
  const needsFrom = (text: string): Needs => (text === 'any' || text === 'all' ? text : Number(text));
  /** How many parts may have to hold, besides one and all of them; whatever is saved stands among them. */
  const countsFor = (needs: Needs) => [
    ...new Set([
      ...Array.from({ length: Math.max(0, parts - 2) }, (_, i) => i + 2),
      ...(typeof needs === 'number' ? [needs] : [])
    ])
  ];
  const spoken = (text: string) => spokenDuration(durationFromText(text));
  const withOwn = (usual: readonly string[], own: string) => [...new Set([...usual, own])];
</script>

{#snippet length(name: string, usual: readonly string[], value: string, change: (value: string) => void)}
  <select class="part" aria-label={named(name)} {value} onchange={(event) => change(event.currentTarget.value)}
    >{#each withOwn(usual, value) as text (text)}<option value={text}>{spoken(text)}</option>{/each}</select
  >
{/snippet}

{#if condition.kind === 'combined'}
  <select
    class="part"
    aria-label={named('How many parts')}
    value={String(condition.needs)}
    onchange={(event) => onChange({ ...condition, needs: needsFrom(event.currentTarget.value) })}
  >
    <option value="any">any of its parts holds</option>
    <option value="all">all of its parts hold</option>
    {#each countsFor(condition.needs) as count (count)}<option value={String(count)}
        >at least {count} of its parts hold</option
      >{/each}
  </select>
{:else}
  <select
    class="part"
    aria-label={named('Direction')}
    value={verbOf(condition)}
    onchange={(event) => onChange(withVerb(condition, event.currentTarget.value as Verb))}
  >
    {#each groups as [title, of] (title)}
      <optgroup label={title}>
        {#each of as verb (verb)}<option value={verb}>{verbs[verb]}</option>{/each}
      </optgroup>
    {/each}
  </select>
{/if}
{#if condition.kind === 'threshold' && 'limit' in condition}
  <NumberPart
    name={named('Threshold')}
    value={condition.limit}
    unit={unitText}
    onChange={(limit: number) => onChange({ ...condition, limit })}
  />
  {#if condition.clear !== undefined}
    , clearing at
    <NumberPart
      name={named('Clearing threshold')}
      value={condition.clear}
      unit={unitText}
      onChange={(clear: number) => onChange({ ...condition, clear })}
    />
  {/if}
  <ExceptionsClause {condition} unit={unitText} {named} {onChange} />
{:else if condition.kind === 'threshold'}
  <NumberPart
    name={named('Lower threshold')}
    value={condition.low}
    unit=""
    onChange={(low: number) => onChange({ ...condition, low })}
  />
  to
  <NumberPart
    name={named('Upper threshold')}
    value={condition.high}
    unit={unitText}
    onChange={(high: number) => onChange({ ...condition, high })}
  />
{:else if condition.kind === 'band'}
  <NumberPart
    name={named('Widths')}
    value={condition.widths}
    unit={condition.widths === 1 ? 'width' : 'widths'}
    least={0.5}
    onChange={(widths: number) => onChange({ ...condition, widths })}
  />
{:else if condition.kind === 'change'}
  <NumberPart
    name={named('Change')}
    value={condition.by}
    unit=""
    least={0}
    onChange={(by: number) => onChange({ ...condition, by })}
  />
  <select
    class="part"
    aria-label={named('Change in')}
    value={condition.as}
    onchange={(event) => onChange({ ...condition, as: event.currentTarget.value as 'amount' | 'percent' })}
    ><option value="percent">per cent</option><option value="amount">{unitText || 'in number'}</option></select
  >
  against
  <select
    class="part"
    aria-label={named('Against')}
    value={condition.against}
    onchange={(event) => onChange({ ...condition, against: event.currentTarget.value as typeof condition.against })}
    ><option value="before">the window before</option><option value="day">the same time a day earlier</option><option
      value="week">the same time a week earlier</option
    ></select
  >, over
  {@render length('Length of the compared window', overs, condition.over, (over) => onChange({ ...condition, over }))}
{:else if condition.kind === 'absence'}
  {@render length('Silence', silences, condition.for, (length) => onChange({ ...condition, for: length }))}
{:else if condition.kind === 'rank'}
  <NumberPart
    name={named('Robust deviations')}
    value={condition.by}
    unit="robust deviations"
    least={1}
    onChange={(by: number) => onChange({ ...condition, by })}
  />
{:else if condition.kind === 'forecast'}
  <NumberPart
    name={named('Limit')}
    value={condition.limit}
    unit={unitText}
    onChange={(limit: number) => onChange({ ...condition, limit })}
  />
  within
  {@render length('Within', aheads, condition.within, (within) => onChange({ ...condition, within }))}, by the trend of
  {@render length('History of the trend', aheads, condition.from, (from) => onChange({ ...condition, from }))}
{/if}
