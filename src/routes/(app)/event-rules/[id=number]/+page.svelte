<script lang="ts">
  import EventRuleEditor from '$lib/ui/events/EventRuleEditor.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { stored } = $derived(data);
</script>

<svelte:head><title>{stored.rule.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-2">
    <h1>{stored.rule.name}</h1>
    <span class="text-quiet text-[14px]"
      >event rule, changed <Moment at={stored.changedAt} now={live.now} /> by {stored.changedBy}</span
    >
  </div>
  {#key stored.id}<EventRuleEditor {stored} rule={stored.rule} names={data.names} routes={data.routes} />{/key}
</main>
