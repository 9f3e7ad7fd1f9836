<script lang="ts">
  import type { Instant } from '$lib/core/time';
  import ConfirmedAction from '../forms/ConfirmedAction.svelte';
  import { useLive } from '../live/live.svelte';
  import { Acting } from '../people/acting.svelte';
  import Outcome from '../people/Outcome.svelte';
  import Moment from '../time/Moment.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    accounts: readonly {
      id: number;
      name: string;
      removedAt: Instant;
      removedBy: string;
      erase: boolean;
      erased: number | null;
    }[];
  }
  let { accounts }: Props = $props();
  const live = useLive();
  const { mayAdminister } = useReader();
  const acting = new Acting();

  async function stop(id: number, name: string): Promise<void> {
    await acting.call('POST', `/accounts/${id}/stop-erasing`, {}, `What is left of the history of ${name} stays.`);
  }
</script>

{#if accounts.length > 0}
  <section class="panel mt-2.5" aria-label="Removed accounts">
    <header><h2>Removed</h2></header>
    <Outcome {acting} />
    {#each accounts as { id, name, removedAt, removedBy, erase, erased } (id)}
      <div class="border-line border-b py-1.5 text-[13px] last:border-0">
        <b>{name}</b>
        <span class="text-quiet block"
          >{erase
            ? `history is being erased${erased === null ? '' : `, ${Math.floor(erased * 100)} % done`}`
            : 'history stays'}, removed <Moment at={removedAt} now={live.now} /> by {removedBy}</span
        >
        {#if erase && erased !== null}<progress
            class="block h-1.5 w-full max-w-[320px]"
            max="1"
            value={erased}
            aria-label="Erasing the history of {name}"
          ></progress>{/if}
        {#if mayAdminister}<div class="mt-1">
            {#if erase}<button class="btn" disabled={acting.busy} onclick={() => void stop(id, name)}
                >Stop erasing, keep the rest</button
              >{:else}<ConfirmedAction
                action="/accounts?/erase"
                {id}
                label="Erase history"
                question="Erase its history?"
              />{/if}
          </div>{/if}
      </div>
    {/each}
  </section>
{/if}
