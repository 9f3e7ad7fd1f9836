<script lang="ts" generics="Limit extends CellLimit">
  import X from '@lucide/svelte/icons/x';
  import { severities, type Severity } from '$lib/core/alarm';
  import { comparisons, type CellLimit } from '$lib/core/board';
  import NumberField from './NumberField.svelte';

  interface Props {
    limits: readonly Limit[];
    /** The unit they are in, as it is written. */
    unit: string;
    /** Whether limits may be of names, and say how a value stands to them; lines of a chart are only at a value. */
    isOfCells?: boolean;
    onChange: (limits: Limit[]) => void;
  }
  let { limits, unit, isOfCells = false, onChange }: Props = $props();
  const all = $derived<readonly CellLimit[]>(limits);
  const tell = (next: readonly CellLimit[]) => onChange(next as Limit[]);
  const changed = (index: number, to: CellLimit) => tell(all.map((limit, at) => (at === index ? to : limit)));

  function compare(index: number, how: string): void {
    const { severity, text } = all[index] as CellLimit;
    const kept = { severity, ...(text === undefined ? {} : { text }) };
    const before = all[index] as CellLimit;
    if (how === 'matches') changed(index, { matches: '*', ...kept });
    else changed(index, { value: 'value' in before ? before.value : 0, is: how as 'above', ...kept });
  }
</script>

<ul class="flex flex-col gap-1">
  {#each all as limit, index (index)}
    <li class="flex flex-wrap items-center gap-1">
      {#if isOfCells}
        <select
          class="part"
          aria-label="How limit {index + 1} is reached"
          value={'matches' in limit ? 'matches' : (limit.is ?? 'above')}
          onchange={(event) => compare(index, event.currentTarget.value)}
        >
          {#each comparisons as one (one)}<option value={one}>{one === 'equal' ? 'equal to' : one}</option>{/each}
          <option value="matches">name matches</option>
        </select>
      {/if}
      {#if 'matches' in limit}
        <input
          class="part w-[110px]"
          aria-label="Pattern of names"
          maxlength="200"
          value={limit.matches}
          onchange={(event) => changed(index, { ...limit, matches: event.currentTarget.value.trim() || '*' })}
        />
      {:else}
        <NumberField
          label={isOfCells ? '' : 'Limit'}
          name="Limit"
          value={limit.value}
          placeholder="0"
          onChange={(value: number | undefined) => value !== undefined && changed(index, { ...limit, value })}
        />
        {unit}
      {/if}
      <select
        class="part"
        aria-label="Severity of the limit"
        value={limit.severity}
        onchange={(event) => changed(index, { ...limit, severity: event.currentTarget.value as Severity })}
      >
        {#each severities as severity (severity)}<option>{severity}</option>{/each}
      </select>
      <button class="text-quiet" aria-label="Remove the limit" onclick={() => tell(all.filter((_, at) => at !== index))}
        ><X size={13} /></button
      >
    </li>
  {/each}
</ul>
{#if limits.length < 8}
  <button
    class="link self-start"
    onclick={() => {
      const last = all.at(-1);
      tell([...all, { value: last && 'value' in last ? last.value : 0, severity: 'major' }]);
    }}>Add a limit</button
  >
{/if}
