<script lang="ts">
  import BoardSheet from '$lib/ui/board/sheet/BoardSheet.svelte';
  import { thingsOf } from '$lib/ui/board/data/board-context.svelte';
  import { PanelViews } from '$lib/ui/board/data/panel-view.svelte';
  import ClusterTrail from '$lib/ui/clusters/ClusterTrail.svelte';
  import RaisedOn from '$lib/ui/clusters/RaisedOn.svelte';
  import RestartTable from '$lib/ui/clusters/RestartTable.svelte';
  import UseRuler from '$lib/ui/clusters/UseRuler.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  useRefresh(useLive(), ['alarm', 'account'], 'bussola:board');
  const views = new PanelViews();
  const { resource, copy, container } = $derived(data);
  const incidents = $derived(
    data.overview.logbook.incidents.filter(
      ({ resource: name, account, closedAt }) =>
        closedAt === null && account === resource.account && name === resource.name
    )
  );
  const things = $derived({ ...thingsOf(data), incidents: data.overview.logbook.incidents });
  const steps = $derived([
    { name: 'Clusters', href: '/clusters' },
    { name: data.cluster, href: data.clusterId === null ? null : `/clusters/${data.clusterId}` },
    { name: resource.name, href: `/clusters/${resource.id}` },
    { name: copy, href: null }
  ]);
</script>

<svelte:head><title>{copy} · Bussola</title></svelte:head>
<main class="@container min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <ClusterTrail {steps} />
  <div class="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1">
    <h1>{copy}</h1>
    <span class="text-quiet text-[13px]"
      >container of {resource.name}{#if container !== null && container.node !== ''}, on
        {#if data.nodeId !== null}<a class="link" href={withRange(`/clusters/${data.nodeId}`)}>{container.node}</a
          >{:else}{container.node}{/if}{/if}</span
    >
  </div>
  <RaisedOn {incidents} />
  <div class="mb-2.5 grid grid-cols-3 items-start gap-2.5 @max-[900px]:grid-cols-1">
    <section class="panel" aria-label="Now">
      <header>
        <h2>What it uses</h2>
        <small>at the end of what is shown</small>
      </header>
      {#if container === null}<p class="text-quiet text-[13px]">Nothing was heard of it in the ten minutes before.</p>
      {:else}
        <table class="rows">
          <tbody>
            <tr
              ><td class="text-quiet">Memory</td><td
                ><UseRuler use={container.memory} unit="By" label="Memory of {copy}" width={80} /></td
              ></tr
            >
            <tr
              ><td class="text-quiet">Processor, cores</td><td
                ><UseRuler use={container.processor} unit="1" label="Processor of {copy}" width={80} /></td
              ></tr
            >
            <tr><td class="text-quiet">Restarts, 24 h</td><td class="num">{container.restarts}</td></tr>
          </tbody>
        </table>
      {/if}
    </section>
    <div class="col-span-2 min-w-0 @max-[900px]:col-span-1">
      <RestartTable restarts={data.restarts} account={resource.account} workloadIds={{}} ofOne />
    </div>
  </div>
  <BoardSheet board={data.board} metrics={data.metrics} {things} {views} />
</main>
