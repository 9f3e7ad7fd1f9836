<script lang="ts">
  import { byFullness, type Container } from '$lib/core/clusters';
  import { withRange } from '../time/shown';
  import UseRuler from './UseRuler.svelte';

  interface Props {
    containers: readonly Container[];
    /** The pages of workloads, by their names. */
    workloadIds: Readonly<Record<string, number>>;
    /** Whether all are of one workload, or on one node. */
    of?: 'workload' | 'node' | null;
  }
  let { containers, workloadIds, of = null }: Props = $props();
  const sorted = $derived(byFullness(containers));
</script>

<section class="panel overflow-x-auto" aria-label="Containers">
  <header>
    <h2>Containers</h2>
    <small>the fullest first</small>
  </header>
  <table class="rows">
    <thead
      ><tr
        ><th>Container</th>
        {#if of !== 'workload'}<th>Workload</th>{/if}
        {#if of !== 'node'}<th>Node</th>{/if}
        <th>Memory</th><th>Processor, cores</th><th class="right">Restarts, 24 h</th></tr
      ></thead
    >
    <tbody>
      {#each sorted as { copy, workload, node, memory, processor, restarts } (`${workload}/${copy}`)}
        {@const id = workloadIds[workload]}
        <tr data-container={copy}>
          <td
            >{#if id !== undefined}<a
                class="link font-semibold"
                href={withRange(`/clusters/${id}/${encodeURIComponent(copy)}`)}>{copy}</a
              >{:else}{copy}{/if}</td
          >
          {#if of !== 'workload'}<td>{workload}</td>{/if}
          {#if of !== 'node'}<td>{node}</td>{/if}
          <td><UseRuler use={memory} unit="By" label="Memory of {copy}" /></td>
          <td><UseRuler use={processor} unit="1" label="Processor of {copy}" /></td>
          <td class={['num right', restarts > 0 && 'font-semibold']}>{restarts}</td>
        </tr>
      {:else}<tr
          ><td colspan="6" class="text-quiet"
            >No container was heard of in the last ten minutes of what is shown. A cluster says what runs on it once its
            workload metrics are switched on, on the page of its account.</td
          ></tr
        >{/each}
    </tbody>
  </table>
  <p class="text-quiet mt-1 text-[12px]">
    The bar is what is used, the dashed mark what was requested, the end of the ruler the limit.
  </p>
</section>
