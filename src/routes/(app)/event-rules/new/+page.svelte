<script lang="ts">
  import EventRuleEditor from '$lib/ui/events/EventRuleEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>New event rule · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">New event rule</h1>
  <EventRuleEditor stored={null} rule={data.begun} names={data.names} routes={data.routes} />
</main>
