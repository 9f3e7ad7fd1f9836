<script lang="ts">
  import '@fontsource-variable/atkinson-hyperlegible-next';
  import '@fontsource-variable/jetbrains-mono';
  import '$lib/ui/app.css';
  import { onMount } from 'svelte';
  import type { LayoutProps } from './$types';

  let { children }: LayoutProps = $props();
  onMount(() => {
    // The elements have their styles by now; the sheet that stood in for them would outlast what changes.
    document.querySelector('[data-first-styles]')?.remove();
    globalThis.pageAwoke();
  });
</script>

{@render children()}
