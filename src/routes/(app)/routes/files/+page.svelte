<script lang="ts">
  import FileEditor from '$lib/ui/forms/FileEditor.svelte';
  import { useReader } from '$lib/ui/time/reader';

  const { mayEdit } = useReader();
  interface Answer {
    readonly things: readonly {
      readonly kind: 'channel' | 'rota' | 'route';
      readonly name: string;
      readonly id: number | null;
      readonly differences: readonly string[];
      readonly problems: readonly string[];
    }[];
    readonly reorders: boolean;
    readonly applied?: number;
  }
  const pages: Readonly<Record<string, string>> = { channel: '/channels', rota: '/rotas', route: '/routes' };
</script>

<svelte:head><title>Routes, rotas and channels as a file · Bussola</title></svelte:head>
<main class="flex min-w-0 flex-1 flex-col overflow-y-auto px-[18px] py-3.5">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>Routes, rotas and channels as a file</h1>
    <span class="text-quiet text-[13px]">without secrets; to review, or to keep beside the code</span>
    <span class="ml-auto flex gap-2">
      <a class="btn" href="/api/v1/on-call/file?format=yaml" download>Export as YAML</a>
      <a class="btn" href="/api/v1/on-call/file?format=json" download>as JSON</a>
    </span>
  </div>
  {#if mayEdit}<FileEditor
      path="/on-call"
      thing="thing"
      firstLine="kind: on-call"
      shownOf={({ things, reorders, applied }: Answer) => ({
        things,
        applied,
        besides: reorders
          ? `The routes of the list ${applied === undefined ? 'would be' : 'are'} in another order.`
          : null
      })}
      hrefOf={({ kind = '' }) => pages[kind] ?? '/routes'}
    />{:else}<p class="text-quiet">Applying a file is for editors.</p>{/if}
</main>
