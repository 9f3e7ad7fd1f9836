<script lang="ts">
  import type { Targets } from '$lib/core/targets';
  import PagesEditor from '$lib/ui/targets/PagesEditor.svelte';

  const fresh: Targets = {
    ...{ version: 1, everySeconds: 15, patienceSeconds: 10, mostSeries: 100_000 },
    ...{ find: { by: 'list', targets: [] }, signIn: { by: 'nothing' }, rules: [] }
  };
</script>

<svelte:head><title>Connect OpenMetrics pages · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-1">Connect OpenMetrics pages</h1>
  <p class="text-quiet mb-3 max-w-[80ch] text-[13px]">
    Programs show their metrics as a page of text. Bussola reads such pages at an interval, and stores each line as a
    sample.
  </p>
  <div class="max-w-[920px]"><PagesEditor accountId={null} definition={fresh} /></div>
</main>
