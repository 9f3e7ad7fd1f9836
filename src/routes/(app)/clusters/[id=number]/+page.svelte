<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import BoardSheet from '$lib/ui/board/sheet/BoardSheet.svelte';
  import { thingsOf } from '$lib/ui/board/data/board-context.svelte';
  import { PanelViews } from '$lib/ui/board/data/panel-view.svelte';
  import ClusterTrail from '$lib/ui/clusters/ClusterTrail.svelte';
  import ContainerTable from '$lib/ui/clusters/ContainerTable.svelte';
  import PartTable from '$lib/ui/clusters/PartTable.svelte';
  import RaisedOn from '$lib/ui/clusters/RaisedOn.svelte';
  import RestartTable from '$lib/ui/clusters/RestartTable.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  useRefresh(useLive(), ['alarm', 'account'], 'bussola:board');
  const views = new PanelViews();
  const { part, view, resource } = $derived(data);
  const workloadIds = $derived(
    Object.fromEntries(view.workloads.flatMap(({ name, id }) => (id === null ? [] : [[name, id] as const])))
  );
  const containers = $derived(
    part.kind === 'workload'
      ? view.containers.filter(({ workload }) => workload === part.workload)
      : part.kind === 'node'
        ? view.containers.filter(({ node }) => node === part.node)
        : view.containers
  );
  /** Names of what is raised within this part. */
  const names = $derived(
    new Set(
      part.kind === 'cluster'
        ? [resource.name, ...view.nodes.map(({ name }) => name), ...view.workloads.map(({ name }) => name)]
        : [resource.name]
    )
  );
  const incidents = $derived(
    data.overview.logbook.incidents.filter(
      ({ resource: name, account, closedAt }) =>
        closedAt === null && account === resource.account && name !== null && names.has(name)
    )
  );
  const things = $derived({ ...thingsOf(data), incidents: data.overview.logbook.incidents });
  const steps = $derived([
    { name: 'Clusters', href: '/clusters' },
    ...(part.kind === 'cluster'
      ? []
      : [{ name: data.cluster, href: view.id === null ? null : `/clusters/${view.id}` }]),
    { name: resource.name, href: null }
  ]);
</script>

<svelte:head><title>{resource.name} · Bussola</title></svelte:head>
<main class="@container min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <ClusterTrail {steps} />
  <div class="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1">
    <h1>{resource.name}</h1>
    <span class="text-quiet text-[13px]"
      >{resource.type} in {resource.account}, {resource.region};
      {countOf(containers.length, 'container')}</span
    >
    <a class="btn ml-auto" href={withRange(`/resources/${resource.id}`)}>All its metrics</a>
  </div>
  <RaisedOn {incidents} />
  <div class="mb-2.5 grid grid-cols-3 items-start gap-2.5 @max-[900px]:grid-cols-1">
    <div class="col-span-2 flex min-w-0 flex-col gap-2.5 @max-[900px]:col-span-1">
      {#if part.kind === 'cluster'}
        <PartTable title="Nodes" rows={view.nodes} {workloadIds} />
        <PartTable title="Workloads" rows={view.workloads} {workloadIds} />
      {:else}<ContainerTable {containers} {workloadIds} of={part.kind === 'node' ? 'node' : 'workload'} />{/if}
    </div>
    <RestartTable restarts={data.restarts} account={resource.account} {workloadIds} />
  </div>
  <BoardSheet board={data.board} metrics={data.metrics} {things} {views} />
</main>
