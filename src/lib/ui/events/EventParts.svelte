<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import type { EventCondition, EventNames } from '$lib/core/events';
  import PatternsPart from './PatternsPart.svelte';

  interface Props {
    /** What the events do, such as "raise", for names of fields. */
    what: string;
    condition: EventCondition;
    names: EventNames;
    disabled: boolean;
    onChange: (condition: EventCondition) => void;
  }
  let { what, condition, names, disabled, onChange }: Props = $props();
  const change = (part: Partial<EventCondition>): void => onChange({ ...condition, ...part });
  const changeAt = (index: number, part: Partial<EventCondition['attributes'][number]>): void =>
    change({ attributes: condition.attributes.map((one, at) => (at === index ? { ...one, ...part } : one)) });
  const id = $props.id();
</script>

<PatternsPart
  label="Types of events that {what}"
  none="any type"
  patterns={condition.types}
  known={names.types}
  {disabled}
  onChange={(types: string[]) => change({ types })}
/>
from
<PatternsPart
  label="Sources of events that {what}"
  none="anybody"
  patterns={condition.sources}
  known={names.sources}
  {disabled}
  onChange={(sources: string[]) => change({ sources })}
/>
about
<PatternsPart
  label="Resources of events that {what}"
  none="anything"
  patterns={condition.resources}
  known={names.resources}
  {disabled}
  onChange={(of: string[]) => change({ resources: of })}
/>
{#each condition.attributes as { name, is }, index (index)}
  {index === 0 ? 'with' : 'and'}
  <input
    class="part w-[14ch]"
    aria-label="Attribute {index + 1} of events that {what}"
    placeholder="attribute"
    list="attributes-{id}"
    {disabled}
    value={name}
    oninput={(event) => changeAt(index, { name: event.currentTarget.value })}
  />
  <input
    class="part w-[14ch]"
    aria-label="Value of attribute {index + 1} of events that {what}"
    placeholder="value or *"
    {disabled}
    value={is}
    oninput={(event) => changeAt(index, { is: event.currentTarget.value })}
  />{#if !disabled}<button
      type="button"
      class="btn"
      aria-label="Take attribute {index + 1} away"
      onclick={() => change({ attributes: condition.attributes.filter((_, at) => at !== index) })}
      ><X size={13} /></button
    >{/if}
{/each}
<datalist id="attributes-{id}"
  >{#each names.attributes as one (one)}<option value={one}></option>{/each}</datalist
>
{#if !disabled}<button
    type="button"
    class="part inline-flex items-center gap-1"
    onclick={() => change({ attributes: [...condition.attributes, { name: '', is: '*' }] })}
    ><Plus size={13} />{condition.attributes.length === 0 ? 'with an attribute' : 'and another'}</button
  >{/if}
