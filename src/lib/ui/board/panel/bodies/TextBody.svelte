<script lang="ts">
  import { onMount } from 'svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { text }: { text: string } = $props();
  const boardContext = useBoardContext();
  /** What turns text into clean HTML; loaded where it is used, so that it is part of no other page. */
  let clean = $state.raw<((text: string, href: (path: string) => string) => string) | null>(null);
  onMount(async () => {
    clean = (await import('../clean-text')).cleanText;
  });
</script>

<div class="prose-board min-h-0 flex-1 overflow-y-auto text-[13.5px]">
  <!-- eslint-disable-next-line svelte/no-at-html-tags (cleaned just there, and tested with hostile text) -->
  {#if clean}{@html clean(text, boardContext.href)}{:else}<p class="whitespace-pre-wrap">{text}</p>{/if}
</div>
