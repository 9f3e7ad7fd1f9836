<script lang="ts">
  import { serviceByKey } from '$lib/core/services';
  import { countOf } from '$lib/core/words/count';
  import { withRange } from '../time/shown';

  interface Props {
    groups: readonly {
      readonly service: string;
      readonly count: number;
      readonly first: readonly { readonly id: number; readonly name: string; readonly account: string }[];
    }[];
    /** Services that alarms are recommended for. */
    recommended: readonly string[];
    mayEdit: boolean;
  }
  let { groups, recommended, mayEdit }: Props = $props();
</script>

{#each groups as { service, count, first } (service)}
  <section class="panel mb-2" aria-label={serviceByKey(service).title}>
    <header>
      <h2>{serviceByKey(service).title}</h2>
      <small>{countOf(count, 'resource')} without any alarm</small>
      {#if mayEdit && recommended.includes(service)}<a
          class="btn ml-auto"
          href={withRange(`/alarms/recommended?service=${service}`)}>Add the recommended alarms</a
        >{/if}
    </header>
    <p class="text-[13px]">
      {#each first as { id, name, account }, index (id)}{index > 0 ? ', ' : ''}<a
          class="link"
          href={withRange(`/resources/${id}`)}>{name}</a
        >
        <span class="text-quiet">{account}</span>{/each}{#if count > first.length}<span class="text-quiet">
          and {count - first.length} more</span
        >{/if}
    </p>
  </section>
{:else}
  <p class="panel text-quiet p-4">Every resource is watched by at least one alarm.</p>
{/each}
