<script lang="ts">
  import { severityBalls, type Severity } from '$lib/core/alarm';
  import type { Instant } from '$lib/core/time';

  interface Props {
    /** When it was raised, in order. */
    strip: readonly { readonly from: Instant; readonly to: Instant; readonly severity: Severity }[];
    from: Instant;
    to: Instant;
    /** What it says to who cannot see it. */
    label: string;
  }
  let { strip, from, to, label }: Props = $props();
  const [width, height] = [150, 18];
  /** A short stretch is still seen. */
  const least = 2;
  const x = (at: number) => ((at - from) / Math.max(1, to - from)) * width;
  const weeks = $derived(Array.from({ length: 4 }, (_, week) => (width * (week + 1) * 7) / 30));
</script>

<svg {width} {height} viewBox="0 0 {width} {height}" role="img" aria-label={label} class="block">
  <line x1="0" x2={width} y1={height - 0.5} y2={height - 0.5} stroke="var(--edge)" />
  {#each weeks as at (at)}<line
      x1={width - at}
      x2={width - at}
      y1={height - 3}
      y2={height}
      stroke="var(--edge)"
    />{/each}
  {#each strip as { from: start, to: end, severity } (start)}
    {@const tall = 3 * severityBalls(severity) + 1}
    <rect
      x={Math.max(0, x(start))}
      y={height - 1 - tall}
      width={Math.max(least, x(end) - x(start))}
      height={tall}
      fill="var(--{severity})"
    />
  {/each}
</svg>
