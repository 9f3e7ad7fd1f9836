<script lang="ts">
  import { emptyTarget, type Check } from '$lib/core/reachability';
  import CheckEditor from '$lib/ui/reachability/CheckEditor.svelte';

  const check: Check = { name: '', enabled: true, target: emptyTarget('http'), every: 60, within: 10, retries: 2 };
</script>

<svelte:head><title>New check · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">New check</h1>
  <div class="max-w-[860px]"><CheckEditor stored={null} {check} /></div>
</main>
