<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import { callApi } from '../api';

  interface Props {
    /** What is to go: its kind and id, as the API asks for what uses it. */
    things: readonly { readonly kind: string; readonly id: number }[];
  }
  let { things }: Props = $props();
  interface Use {
    readonly kind: string;
    readonly id: number;
    readonly name: string;
  }
  /** Names that are shown at most. */
  const mostNames = 5;
  const uses = $derived(
    Promise.all(
      things.map(async ({ kind, id }) => {
        const reply = await callApi<{ uses: Use[] }>('GET', '/uses', { query: { kind, id: String(id) } });
        return reply.kind === 'answered' ? reply.answer.uses : null;
      })
    )
  );
  const different = (all: readonly Use[]): Use[] => [
    ...new Map(all.map((use) => [`${use.kind} ${use.id} ${use.name}`, use])).values()
  ];
</script>

{#await uses}<span class="text-quiet" role="status">Looking what uses {things.length === 1 ? 'it' : 'them'} …</span
  >{:then lists}
  {@const all = different(lists.flatMap((list) => list ?? []))}
  {#if lists.includes(null)}<span class="fault">What uses it could not be found out.</span>
  {:else if all.length === 0}<span class="text-quiet">Nothing else names {things.length === 1 ? 'it' : 'them'}.</span>
  {:else}<span class="fault"
      >{countOf(all.length, 'other thing')}
      {all.length === 1 ? 'names' : 'name'}
      {things.length === 1 ? 'it' : 'them'}: {all
        .slice(0, mostNames)
        .map(({ kind, name }) => `${kind} ${name}`)
        .join(', ')}{all.length > mostNames ? ' …' : ''}.</span
    >{/if}
{/await}
