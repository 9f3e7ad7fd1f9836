<script lang="ts">
  import '@fontsource-variable/atkinson-hyperlegible-next';
  import '@fontsource-variable/jetbrains-mono';
  import '$lib/ui/app.css';
  import { onMount } from 'svelte';
  import type { LayoutProps } from './$types';

  let { children }: LayoutProps = $props();
  onMount(() => globalThis.pageAwoke());
</script>

{@render children()}
