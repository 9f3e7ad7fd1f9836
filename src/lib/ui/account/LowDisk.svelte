<!-- Says that no samples are taken for want of room, for as long as it is so. -->
<script lang="ts">
  import { quantityText } from '$lib/core/units';
  import { withRange } from '$lib/ui/time/shown';

  let { state }: { state: { readonly free: number; readonly least: number } | null } = $props();
</script>

{#if state}
  <p class="panel mb-4 border-l-4! border-l-[var(--major)]! text-[13.5px]" role="alert" data-low-disk>
    <b>Bussola takes no samples: its disk is nearly full.</b>
    <span
      >{quantityText(state.free, 'By')} free, {quantityText(state.least, 'By')} needed. Alarms are still evaluated on what
      has arrived. Make room on the disk, or <a class="link" href={withRange('/store')}>shorten retention</a>; Bussola
      then continues by itself.</span
    >
  </p>
{/if}
