<script lang="ts">
  import UsedBy from '$lib/ui/forms/UsedBy.svelte';
  import { countOf } from '$lib/core/words/count';
  import { enhance } from '$app/forms';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  /** The signal that is about to be removed: asked once more in its row. */
  let doubtful = $state<number | null>(null);
</script>

<svelte:head><title>Signals · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex items-center gap-3">
    <h1>
      {data.signals.length === 0 ? 'No saved signal yet' : countOf(data.signals.length, 'saved signal')}
    </h1>
    <a class="btn btn-main ml-auto" href={withRange('/bench')}>Compose one on the bench</a>
  </div>
  {#if data.signals.length === 0}
    <div class="panel items-start gap-2 p-6!">
      <h2>A saved signal has a name and can be opened again.</h2>
      <p class="text-quiet">Compose one on the bench and choose “Save as a signal”.</p>
    </div>
  {:else}
    <section class="panel" aria-label="Saved signals">
      <table class="rows">
        <thead
          ><tr
            ><th>Name</th><th>What it is</th><th>Changed</th>{#if mayEdit}<th></th>{/if}</tr
          ></thead
        >
        <tbody>
          {#each data.signals as { id, name, sentence, changedAt, changedBy } (id)}
            <tr>
              <td class="whitespace-nowrap"><a class="link" href={withRange(`/bench?kept=${id}`)}>{name}</a></td>
              <td>{sentence}</td>
              <td class="text-quiet whitespace-nowrap"><Moment at={changedAt} now={live.now} /> by {changedBy}</td>
              {#if mayEdit}
                <td class="right whitespace-nowrap">
                  {#if doubtful === id}
                    <span class="text-[12px] whitespace-normal"><UsedBy things={[{ kind: 'signal', id }]} /></span>
                    <form method="post" action="?/remove" use:enhance class="inline">
                      <input type="hidden" name="id" value={id} />
                      <button class="btn">Remove it</button>
                    </form>
                    <button class="btn" onclick={() => (doubtful = null)}>Cancel</button>
                  {:else}
                    <button class="text-quiet" aria-label="Remove {name}" onclick={() => (doubtful = id)}
                      >remove …</button
                    >
                  {/if}
                </td>
              {/if}
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
  {/if}
</main>
