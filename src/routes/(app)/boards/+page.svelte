<script lang="ts">
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
</script>

<svelte:head><title>Boards · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex items-center gap-3">
    <h1>
      {data.boards.length === 0
        ? 'No board yet'
        : `${data.boards.length} ${data.boards.length === 1 ? 'board' : 'boards'}`}
    </h1>
    <span class="text-quiet">besides the ready one of each service</span>
    <a class="btn btn-main ml-auto" href={withRange('/bench')}>Compose a panel on the bench</a>
  </div>
  {#if data.boards.length === 0}
    <div class="panel items-start gap-2 p-6!">
      <h2>A board holds signals side by side, for everybody here.</h2>
      <p class="text-quiet">Compose a signal on the bench and choose “Send to a board”.</p>
    </div>
  {:else}
    <section class="panel" aria-label="Boards">
      <table class="rows">
        <thead><tr><th>Board</th><th>Panels</th><th>Changed</th></tr></thead>
        <tbody>
          {#each data.boards as { id, title, panels, changedAt, changedBy } (id)}
            <tr>
              <td class="whitespace-nowrap"><a class="link" href={withRange(`/boards/${id}`)}>{title}</a></td>
              <td class="text-quiet">{panels.length === 0 ? 'none yet' : panels.join(', ')}</td>
              <td class="text-quiet whitespace-nowrap"><Moment at={changedAt} now={live.now} /> by {changedBy}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
  {/if}
</main>
