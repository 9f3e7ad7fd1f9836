<script lang="ts">
  import IncidentRow from '$lib/ui/alarm/IncidentRow.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const open = $derived(data.incidents.filter(({ closedAt }) => closedAt === null));
  const closed = $derived(data.incidents.filter(({ closedAt }) => closedAt !== null));
</script>

<svelte:head><title>Incidents · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">
    Incidents <span class="text-quiet text-[14px] font-normal"
      >{open.length} open, {closed.length} closed in the shown range</span
    >
  </h1>
  {#each [{ title: 'Open', rows: open }, { title: 'Closed', rows: closed }] as { title, rows } (title)}
    <section class="panel mb-2.5" aria-label={title}>
      <header><h2>{title}</h2></header>
      {#if rows.length > 0}
        <table class="rows">
          <tbody
            >{#each rows as incident (incident.id)}<IncidentRow {incident} now={live.now} />{/each}</tbody
          >
        </table>
      {:else}<p class="text-quiet text-[13px]">
          None{title === 'Closed' ? '. Show a longer range to look farther back.' : '.'}
        </p>{/if}
    </section>
  {/each}
</main>
