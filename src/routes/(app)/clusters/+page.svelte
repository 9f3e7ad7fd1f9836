<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import UseRuler from '$lib/ui/clusters/UseRuler.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  useRefresh(useLive(), ['alarm', 'account'], 'bussola:board');
</script>

<svelte:head><title>Clusters, their parts · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-2">
    <h1>{data.clusters.length === 0 ? 'No cluster' : countOf(data.clusters.length + data.left, 'cluster')}</h1>
    <span class="text-quiet text-[14px]">from the whole down to nodes, workloads and containers</span>
  </div>
  <section class="panel overflow-x-auto" aria-label="Clusters">
    <table class="rows">
      <thead
        ><tr
          ><th>Cluster</th><th>Account</th><th class="right">Nodes</th><th class="right">Workloads</th><th class="right"
            >Containers</th
          ><th>Memory of its nodes</th><th>Processor, cores</th><th class="right">Restarts, 24 h</th></tr
        ></thead
      >
      <tbody>
        {#each data.clusters as { id, name, account, region, nodes, workloads, containers, memory, processor, restarts } (id)}
          <tr>
            <td
              ><a class="link font-semibold" href={withRange(`/clusters/${id}`)}>{name}</a>
              <span class="text-quiet block text-[12px]">{region}</span></td
            >
            <td>{account}</td>
            <td class="num right">{nodes}</td>
            <td class="num right">{workloads}</td>
            <td class="num right">{containers}</td>
            <td><UseRuler use={memory} unit="By" label="Memory of {name}" /></td>
            <td><UseRuler use={processor} unit="1" label="Processor of {name}" /></td>
            <td class={['num right', restarts > 0 && 'font-semibold']}>{restarts}</td>
          </tr>
        {:else}
          <tr
            ><td colspan="8" class="text-quiet"
              >No account that is connected has clusters. <a class="link" href="/accounts">See the accounts</a></td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    {#if data.left > 0}<p class="text-quiet mt-1 text-[12px]">and {data.left} more, found by their names</p>{/if}
  </section>
</main>
