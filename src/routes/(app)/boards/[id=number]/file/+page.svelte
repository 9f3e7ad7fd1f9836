<script lang="ts">
  import BoardFileEditor from '$lib/ui/board/edit/file/BoardFileEditor.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>{data.title} as a file · Bussola</title></svelte:head>
<main class="flex min-w-0 flex-1 flex-col overflow-y-auto px-[18px] py-3.5">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>{data.title}</h1>
    <span class="text-quiet text-[13px]">as a file</span>
    <span class="ml-auto flex gap-2">
      <a class="btn" href="/api/v1/boards/{data.id}/file?format=yaml" download>Save as YAML</a>
      <a class="btn" href="/api/v1/boards/{data.id}/file?format=json" download>Save as JSON</a>
      <a class="btn" href={withRange(`/boards/${data.id}`)}>Back to the board</a>
    </span>
  </div>
  <BoardFileEditor text={data.text} into={data.id} mayApply={data.mayEdit} metrics={data.metrics} />
</main>
