<script lang="ts">
  import type { Budget } from '$lib/core/cost';
  import BudgetEditor from '$lib/ui/cost/BudgetEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const budget = $derived<Budget>({
    ...{ name: '', enabled: true, basis: 'amortised', amount: 1000, currency: data.currency, on: 'expected' },
    filters: data.filters.map(({ by, values }) => ({ by, values: [...values] })),
    ...{ period: { kind: 'month' }, levels: [{ severity: 'major', percent: 100 }], route: null }
  });
</script>

<svelte:head><title>New budget · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">New budget</h1>
  <div class="max-w-[860px]">
    <BudgetEditor stored={null} {budget} choices={data.choices} routes={data.routes} today={data.today} />
  </div>
</main>
