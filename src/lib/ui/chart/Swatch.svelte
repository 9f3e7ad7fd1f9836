<script lang="ts">
  import { colourName, type Line } from './picture';

  /** The hue of a line, 1 to 8, or its own tone, and whether it is dashed. */
  let { hue, tone, dashed = false }: { hue: number; tone?: Line['tone']; dashed?: boolean } = $props();
</script>

<svg width="14" height="4" class="inline-block shrink-0 align-middle" aria-hidden="true">
  <line
    x1="0"
    x2="14"
    y1="2"
    y2="2"
    stroke="var({colourName({ hue, ...(tone && { tone }) })})"
    stroke-width="3"
    stroke-dasharray={dashed ? '5 3' : undefined}
  />
</svg>
