<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import FileEditor from '$lib/ui/forms/FileEditor.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { mayEdit } = useReader();
  interface Answer {
    readonly alarms: readonly {
      readonly name: string;
      readonly id: number | null;
      readonly sentence: string;
      readonly differences: readonly string[];
      readonly problems: readonly string[];
    }[];
    readonly applied?: readonly unknown[];
  }
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
  {#if mayEdit}<FileEditor
      path="/alarms"
      thing="alarm"
      firstLine="kind: alarms"
      shownOf={({ alarms, applied }: Answer) => ({ things: alarms, applied: applied?.length })}
      hrefOf={({ id }) => `/alarms/${id}`}
    />{:else}<p class="text-quiet">Applying a file is for editors.</p>{/if}
</main>
