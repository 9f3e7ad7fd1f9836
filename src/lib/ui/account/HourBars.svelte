<script lang="ts">
  /** Points in each hour of a day, oldest first, as a small row of bars. */
  let { hours, width = 96, height = 20 }: { hours: readonly number[]; width?: number; height?: number } = $props();
  const top = $derived(Math.max(1, ...hours));
  const total = $derived(hours.reduce((sum, points) => sum + points, 0));
</script>

<svg {width} {height} role="img" aria-label="{total.toLocaleString('en')} samples in the last day">
  {#each hours as points, i (i)}
    {@const tall = points === 0 ? 1 : Math.max(2, (points / top) * height)}
    <rect
      x={(i * width) / hours.length}
      y={height - tall}
      width={Math.max(1, width / hours.length - 1)}
      height={tall}
      fill="var({points === 0 ? '--line-strong' : '--hue-1'})"
    />
  {/each}
</svg>
