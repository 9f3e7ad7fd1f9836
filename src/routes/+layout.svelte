<script lang="ts">
  import '@fontsource-variable/atkinson-hyperlegible-next';
  import '@fontsource-variable/jetbrains-mono';
  import '$lib/ui/app.css';

  let { children } = $props();
</script>

{@render children()}
