<script lang="ts">
  import { hour, type Instant } from '$lib/core/time';

  /** The pulls of the last hour. */
  let { pulls, now }: { pulls: readonly { at: Instant; points: number; failed: boolean }[]; now: Instant } = $props();
  const height = 60;
  let width = $state(320);
  // Pulls that bring history would dwarf the usual ones: the scale ends at twice the middle one.
  const middle = $derived(
    [...pulls].map(({ points }) => points).sort((a, b) => a - b)[Math.floor(pulls.length / 2)] ?? 0
  );
  const top = $derived(Math.max(1, middle * 2));
  const x = (at: number) => ((at - (now - hour)) / hour) * width;
</script>

<div bind:clientWidth={width}>
  {#if pulls.length === 0}<p class="text-quiet text-[13px]">No pull in the last hour.</p>{:else}
    <svg
      {width}
      {height}
      role="img"
      aria-label="{pulls.length} pulls, {pulls.filter(({ failed }) => failed).length} failed"
    >
      {#each pulls as { at, points, failed } (at)}
        {@const tall = Math.min(1, points / top) * (height - 4)}
        <rect
          x={x(at) - 2}
          y={height - Math.max(2, tall)}
          width="3"
          height={Math.max(2, tall)}
          fill="var({failed ? '--major' : '--hue-1'})"
        />
      {/each}
    </svg>
    <p class="text-quiet text-[12px]">
      usually <span class="num">{middle}</span> a pull{pulls.some(({ failed }) => failed)
        ? `; ${pulls.filter(({ failed }) => failed).length} failed`
        : ''}
    </p>
  {/if}
</div>
