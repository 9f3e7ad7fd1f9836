<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { CollectionPlan } from '$lib/core/intake';
  import { lineSeverities } from '$lib/core/logs';

  interface Props {
    plan: CollectionPlan;
    /** A field for how long something is stored. */
    days: Snippet<[of: 'lineDays', name: string, most: number]>;
  }
  let { plan = $bindable(), days }: Props = $props();
</script>

<span class="block">
  <select
    class="part"
    aria-label="Lines"
    value={plan.lines.collect ? 'yes' : 'no'}
    onchange={(event) => (plan.lines.collect = event.currentTarget.value === 'yes')}
  >
    <option value="yes">Collect lines</option><option value="no">Collect no lines</option>
  </select>{#if plan.lines.collect}
    <span class="ml-1">of</span>
    <select class="part" aria-label="Least severity of lines" bind:value={plan.lines.from}>
      <option value={1}>every severity</option>
      {#each lineSeverities.slice(1) as severity, index (severity)}<option value={5 + 4 * index}
          >{severity} and worse</option
        >{/each}
    </select>, leaving out
    <input
      class="part w-[30ch]"
      aria-label="Search for lines left out"
      placeholder="none, or a search: &quot;answers its check&quot;"
      bind:value={plan.lines.leaveOut}
    />. Store them {@render days('lineDays', 'Days of lines', 3660)} days{/if}.
</span>
