<script lang="ts">
  import FileEditor from '$lib/ui/forms/FileEditor.svelte';
  import { useReader } from '$lib/ui/time/reader';

  const { mayEdit } = useReader();
  interface Answer {
    readonly things: readonly {
      readonly kind: 'budgets' | 'promises' | 'responses' | 'summaries';
      readonly name: string;
      readonly id: number | null;
      readonly differences: readonly string[];
      readonly problems: readonly string[];
    }[];
    readonly applied?: number;
  }
  const pages: Readonly<Record<string, string>> = {
    ...{ budgets: '/cost', promises: '/objectives', responses: '/responses', summaries: '/summary' }
  };
</script>

<svelte:head><title>Promises, budgets, responses and summaries as a file · Bussola</title></svelte:head>
<main class="flex min-w-0 flex-1 flex-col overflow-y-auto px-[18px] py-3.5">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>Promises, budgets, responses and summaries as a file</h1>
    <span class="text-quiet text-[13px]">to review, or to store beside the code</span>
    <span class="ml-auto flex gap-2">
      <a class="btn" href="/api/v1/agreements/file?format=yaml" download>Export as YAML</a>
      <a class="btn" href="/api/v1/agreements/file?format=json" download>as JSON</a>
    </span>
  </div>
  {#if mayEdit}<FileEditor
      path="/agreements"
      thing="thing"
      firstLine="kind: agreements"
      shownOf={({ things, applied }: Answer) => ({ things, applied, besides: null })}
      hrefOf={({ kind = '' }) => pages[kind] ?? '/objectives'}
    />{:else}<p class="text-quiet">Applying a file is for editors.</p>{/if}
</main>
