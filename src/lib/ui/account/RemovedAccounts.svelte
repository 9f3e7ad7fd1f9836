<script lang="ts">
  import type { Instant } from '$lib/core/time';
  import ConfirmedAction from '../forms/ConfirmedAction.svelte';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    accounts: readonly { id: number; name: string; removedAt: Instant; removedBy: string; erase: boolean }[];
  }
  let { accounts }: Props = $props();
  const live = useLive();
  const { mayAdminister } = useReader();
</script>

{#if accounts.length > 0}
  <section class="panel mt-2.5" aria-label="Removed accounts">
    <header><h2>Removed</h2></header>
    {#each accounts as { id, name, removedAt, removedBy, erase } (id)}
      <div class="border-line border-b py-1.5 text-[13px] last:border-0">
        <b>{name}</b>
        <span class="text-quiet block"
          >{erase ? 'history is being erased' : 'history kept'}, removed <Moment at={removedAt} now={live.now} /> by {removedBy}</span
        >
        {#if mayAdminister && !erase}<div class="mt-1">
            <ConfirmedAction action="/accounts?/erase" {id} label="Erase history" question="Erase its history?" />
          </div>{/if}
      </div>
    {/each}
  </section>
{/if}
