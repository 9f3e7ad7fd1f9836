<script lang="ts">
  import PlanEditor from '$lib/ui/summary/PlanEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>New summary · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">Send a summary regularly</h1>
  <PlanEditor stored={null} given={data.given} channels={data.channels} />
</main>
