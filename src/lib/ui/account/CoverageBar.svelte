<script lang="ts">
  /** How much of what was found is collected, as a bar; hatched when it is refused. */
  let { found, collected, refused = false }: { found: number; collected: number; refused?: boolean } = $props();
  const share = $derived(found === 0 ? 0 : (100 * collected) / found);
</script>

<span
  class={['border-strong bg-sunk block h-[9px] w-[110px] border', refused && 'refused']}
  role="img"
  aria-label={refused ? 'refused' : `${collected} of ${found} collected`}
>
  {#if !refused}<span class="bg-deep block h-full" style:width="{share}%"></span>{/if}
</span>

<style>
  .refused {
    border-color: var(--major);
    background: repeating-linear-gradient(135deg, var(--major) 0 2px, transparent 2px 6px);
  }
</style>
