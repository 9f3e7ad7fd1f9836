<script lang="ts">
  import type { PageRule } from '$lib/core/targets';

  interface Props {
    rule: PageRule;
    disabled: boolean;
    onChange: (rule: PageRule) => void;
  }
  let { rule, disabled, onChange }: Props = $props();
  const text = (event: { currentTarget: HTMLInputElement }): string => event.currentTarget.value;
</script>

{#snippet field(label: string, value: string, placeholder: string, change: (value: string) => void)}
  <input
    class="part num w-[18ch]"
    aria-label={label}
    {placeholder}
    {disabled}
    {value}
    spellcheck="false"
    oninput={(event) => change(text(event))}
  />
{/snippet}

{#if rule.does === 'leave out'}
  {@const one = rule}
  Leave out series whose
  <select
    class="part"
    aria-label="What is looked at"
    {disabled}
    value={one.label === null ? 'metric' : 'label'}
    onchange={(event) => onChange({ ...one, label: event.currentTarget.value === 'metric' ? null : '' })}
    ><option value="metric">metric</option><option value="label">label</option></select
  >{#if one.label !== null}
    {@render field('Label', one.label, 'path', (label) => onChange({ ...one, label }))}{/if}
  <select
    class="part"
    aria-label="Like or unlike"
    {disabled}
    value={one.is}
    onchange={(event) => onChange({ ...one, is: event.currentTarget.value === 'like' ? 'like' : 'unlike' })}
    ><option value="like">is like</option><option value="unlike">is not like</option></select
  >
  {@render field('Pattern', one.pattern, 'debug_*', (pattern) => onChange({ ...one, pattern }))}.
{:else if rule.does === 'rename metric'}
  {@const one = rule}
  Rename metrics from
  {@render field('Old name', one.pattern, 'old_*', (pattern) => onChange({ ...one, pattern }))} to
  {@render field('New name', one.to, 'new_*', (to) => onChange({ ...one, to }))}.
{:else if rule.does === 'rename label'}
  {@const one = rule}
  Rename the label
  {@render field('Label', one.label, 'pod', (label) => onChange({ ...one, label }))} to
  {@render field('New name', one.to, 'workload', (to) => onChange({ ...one, to }))}.
{:else if rule.does === 'leave out label'}
  {@const one = rule}
  Leave out the label {@render field('Label', one.label, 'build*', (label) => onChange({ ...one, label }))}; series
  remain.
{:else}
  {@const one = rule}
  Add the label
  {@render field('Label', one.label, 'ring', (label) => onChange({ ...one, label }))} with the value
  {@render field('Value', one.value, 'outer', (value) => onChange({ ...one, value }))}.
{/if}
