<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import AlarmFileEditor from '$lib/ui/alarm/AlarmFileEditor.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { mayEdit } = useReader();
</script>

<svelte:head><title>Alarms as files · Bussola</title></svelte:head>
<main class="flex min-w-0 flex-1 flex-col overflow-y-auto px-[18px] py-3.5">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>Alarms as files</h1>
    <span class="text-quiet text-[13px]">to review, to keep beside the code, or to take to another workspace</span>
    {#if data.count > 0}
      <span class="ml-auto flex gap-2">
        <a class="btn" href="/api/v1/alarms/file?format=yaml" download>Export {countOf(data.count, 'alarm')} as YAML</a>
        <a class="btn" href="/api/v1/alarms/file?format=json" download>as JSON</a>
      </span>
    {/if}
  </div>
  {#if mayEdit}<AlarmFileEditor />{:else}<p class="text-quiet">Applying a file is for editors.</p>{/if}
</main>
