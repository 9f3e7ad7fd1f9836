<script lang="ts">
  import { leftText } from '$lib/core/objective';

  /** What is left of an error budget, as a ruler from nothing to all of it. */
  let { left, isSpent }: { left: number | null; isSpent: boolean } = $props();
  const width = $derived(left === null ? 0 : Math.max(0, Math.min(1, left)) * 100);
</script>

{#if left === null}<span class="text-quiet">nothing counted</span>
{:else}
  <span
    class="flex items-center gap-3"
    role="meter"
    aria-valuenow={Math.round(Math.max(0, left) * 100)}
    aria-valuemin="0"
    aria-valuemax="100"
    aria-label="Error budget left"
  >
    <span class="border-strong bg-sunk relative h-2.5 min-w-[80px] flex-1 border">
      <span class="bg-deep absolute inset-y-0 left-0" style:width="{width}%"></span>
      {#each [25, 50, 75] as tick (tick)}<span class="bg-surface absolute inset-y-0 w-px" style:left="{tick}%"
        ></span>{/each}
    </span>
    <span class={['num w-[48px] text-right', isSpent ? 'fault font-semibold' : '']}>{leftText(left)}</span>
  </span>
{/if}
