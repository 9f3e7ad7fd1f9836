<script lang="ts">
  import BudgetEditor from '$lib/ui/cost/BudgetEditor.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  useRefresh(live, ['costs'], 'bussola:costs');
</script>

<svelte:head><title>{data.stored.value.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">{data.stored.value.name}</h1>
  <div class="max-w-[860px]">
    {#key data.stored.id}<BudgetEditor
        stored={data.stored}
        budget={data.stored.value}
        choices={data.choices}
        routes={data.routes}
        today={data.today}
      />{/key}
  </div>
</main>
