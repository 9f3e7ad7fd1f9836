<script lang="ts">
  /** Width and height in pixels. */
  let { size = 26 }: { size?: number } = $props();
</script>

<svg width={size} height={size} viewBox="0 0 24 24" aria-hidden="true" class="text-ink shrink-0">
  <circle cx="12" cy="12" r="11" fill="none" stroke="currentColor" stroke-width="1" />
  <circle cx="12" cy="12" r="8.4" fill="none" stroke="currentColor" stroke-width="0.4" opacity="0.7" />
  <path d="M1.8 12 12 10 22.2 12 12 14Z" fill="currentColor" opacity="0.55" />
  <path d="M12 1.8 14 12 12 22.2 10 12Z" fill="currentColor" />
  <path d="M12 1.8 14 12H12Z" fill="var(--deep)" />
</svg>
