<script lang="ts">
  import type { ContainerGroup } from '$lib/core/clusters';
  import { withRange } from '../time/shown';
  import UseRuler from './UseRuler.svelte';

  interface Props {
    title: 'Nodes' | 'Workloads';
    rows: readonly (ContainerGroup & { readonly id: number | null })[];
    workloadIds: Readonly<Record<string, number>>;
  }
  let { title, rows, workloadIds }: Props = $props();
</script>

<section class="panel overflow-x-auto" aria-label={title}>
  <header><h2>{title}</h2></header>
  <table class="rows">
    <thead
      ><tr
        ><th>{title.slice(0, -1)}</th><th class="right">Containers</th><th>Memory</th><th>Processor, cores</th><th
          >Fullest container</th
        ><th class="right">Restarts, 24 h</th></tr
      ></thead
    >
    <tbody>
      {#each rows as { id, name, containers, memory, processor, fullest, restarts } (name)}
        <tr data-part={name}>
          <td class="whitespace-nowrap"
            >{#if id !== null}<a class="link font-semibold" href={withRange(`/clusters/${id}`)}>{name}</a
              >{:else}{name}{/if}</td
          >
          <td class="num right">{containers.length}</td>
          <td><UseRuler use={memory} unit="By" label="Memory of {name}" width={90} brief /></td>
          <td><UseRuler use={processor} unit="1" label="Processor of {name}" width={90} brief /></td>
          <td class="whitespace-nowrap"
            >{#if fullest !== null}
              {@const workloadId = workloadIds[fullest.workload]}
              {#if workloadId !== undefined}<a
                  class="link"
                  href={withRange(`/clusters/${workloadId}/${encodeURIComponent(fullest.copy)}`)}>{fullest.copy}</a
                >{:else}{fullest.copy}{/if}
              <span class="num text-quiet text-[12.5px]"
                >{Math.round(((fullest.memory.used ?? 0) / (fullest.memory.limit ?? 1)) * 100)} %</span
              >{/if}</td
          >
          <td class={['num right', restarts > 0 && 'font-semibold']}>{restarts}</td>
        </tr>
      {:else}<tr><td colspan="6" class="text-quiet">None is known.</td></tr>{/each}
    </tbody>
  </table>
</section>
