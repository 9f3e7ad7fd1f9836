<script lang="ts">
  import { severities, type Severity } from '$lib/core/alarm';

  /** @param label what it is of, for those who cannot see it */
  let { severity = $bindable(), label }: { severity: Severity; label: string } = $props();
</script>

<select class="part" aria-label={label} bind:value={severity}
  >{#each severities as one (one)}<option>{one}</option>{/each}</select
>
