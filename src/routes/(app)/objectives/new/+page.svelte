<script lang="ts">
  import { proposedLevels, type Objective } from '$lib/core/objective';
  import ObjectiveEditor from '$lib/ui/objective/ObjectiveEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const first = { targetPercent: 99.9, period: { kind: 'rolling', days: 30 } } as const;
  const objective = $derived<Objective>({
    ...{ name: data.title.slice(0, 120), enabled: true, ...first, leaveOutMaintenance: true, route: null },
    of: { kind: 'time', signal: data.signal, is: data.isLow ? 'above' : 'below', limit: data.limit },
    levels: proposedLevels(first)
  });
</script>

<svelte:head><title>New promise · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">New promise</h1>
  <div class="max-w-[980px]">
    <ObjectiveEditor stored={null} {objective} choices={data.choices} routes={data.routes} />
  </div>
</main>
