<script lang="ts">
  import Info from '@lucide/svelte/icons/info';
  import { Tooltip } from '@skeletonlabs/skeleton-svelte';

  let { title, about }: { title: string; about: string } = $props();
</script>

<span data-chrome class="self-center">
  <Tooltip openDelay={150} closeDelay={100} positioning={{ placement: 'bottom-start' }}>
    <Tooltip.Trigger class="text-quiet align-middle" aria-label="About {title}"><Info size={13} /></Tooltip.Trigger>
    <Tooltip.Positioner class="z-30!">
      <Tooltip.Content class="panel max-w-[320px] p-2! text-[13px] whitespace-pre-line shadow-none"
        >{about}</Tooltip.Content
      >
    </Tooltip.Positioner>
  </Tooltip>
</span>
