<script lang="ts">
  import { limitWords, type CellLimit } from '$lib/core/board';
  import SeverityHoist from '../../alarm/SeverityHoist.svelte';

  interface Props {
    /** The limit that was reached; null for none. */
    limit: CellLimit | null;
    /** UCUM code of the value. */
    unit: string;
  }
  let { limit, unit }: Props = $props();
</script>

{#if limit}<span class="inline-flex shrink-0" title="{limit.severity}: {limitWords(limit, unit)}"
    ><SeverityHoist severity={limit.severity} /></span
  >{/if}
