<script lang="ts">
  import { usualLimits, type AutoResponse } from '$lib/core/response';
  import ResponseEditor from '$lib/ui/response/ResponseEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const response = $derived<AutoResponse>({
    ...{ name: '', enabled: true, alarmId: data.alarmId, from: 'major', heldMinutes: 10 },
    ...{ action: { kind: 'restart' }, limits: usualLimits }
  });
</script>

<svelte:head><title>New response · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">New response</h1>
  <div class="max-w-[980px]">
    <ResponseEditor stored={null} {response} alarms={data.alarms} groups={data.groups} webhooks={data.webhooks} />
  </div>
</main>
