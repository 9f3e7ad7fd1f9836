<script lang="ts">
  import type { Acting } from './acting.svelte';

  let { acting }: { acting: Acting } = $props();
</script>

{#if acting.problem}<p class="fault mb-2" role="alert">{acting.problem}</p>{/if}
{#if acting.done}<p class="text-ok mb-2" role="status">{acting.done}</p>{/if}
