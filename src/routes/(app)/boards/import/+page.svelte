<script lang="ts">
  import BoardFileEditor from '$lib/ui/board/edit/file/BoardFileEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>Import a board · Bussola</title></svelte:head>
<main class="flex min-w-0 flex-1 flex-col overflow-y-auto px-[18px] py-3.5">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>Import a board</h1>
    <span class="text-quiet text-[13px]">from a file of this or another workspace; you see what it would do first</span>
  </div>
  <BoardFileEditor text="" into={null} mayApply metrics={data.metrics} />
</main>
