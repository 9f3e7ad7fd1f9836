<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { severities, type Severity } from '$lib/core/alarm';
  import type { Bound } from '$lib/core/board';
  import NumberField from './NumberField.svelte';

  interface Props {
    limits: readonly Bound[];
    /** The unit they are in, as it is written. */
    unit: string;
    onChange: (limits: Bound[]) => void;
  }
  let { limits, unit, onChange }: Props = $props();
  const changed = (index: number, to: Partial<Bound>) =>
    onChange(limits.map((limit, at) => (at === index ? { ...limit, ...to } : limit)));
</script>

<ul class="flex flex-col gap-1">
  {#each limits as limit, index (index)}
    <li class="flex flex-wrap items-center gap-1">
      <NumberField
        label="Limit"
        value={limit.value}
        placeholder="0"
        onChange={(value: number | undefined) => value !== undefined && changed(index, { value })}
      />
      {unit}
      <select
        class="part"
        aria-label="Severity of the limit"
        value={limit.severity}
        onchange={(event) => changed(index, { severity: event.currentTarget.value as Severity })}
      >
        {#each severities as severity (severity)}<option>{severity}</option>{/each}
      </select>
      <button
        class="text-quiet"
        aria-label="Take the limit away"
        onclick={() => onChange(limits.filter((_, at) => at !== index))}><X size={13} /></button
      >
    </li>
  {/each}
</ul>
{#if limits.length < 8}
  <button
    class="link self-start"
    onclick={() => onChange([...limits, { value: limits.at(-1)?.value ?? 0, severity: 'major' }])}>Add a limit</button
  >
{/if}
