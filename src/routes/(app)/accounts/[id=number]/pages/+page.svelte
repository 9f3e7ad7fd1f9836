<script lang="ts">
  import PagesEditor from '$lib/ui/targets/PagesEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>Pages of {data.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">Pages of <a class="link" href="/accounts/{data.id}">{data.name}</a></h1>
  <div class="max-w-[920px]">
    {#key data.id}<PagesEditor accountId={data.id} definition={data.definition} />{/key}
  </div>
</main>
