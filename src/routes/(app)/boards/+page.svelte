<script lang="ts">
  import { goto } from '$app/navigation';
  import { serviceByKey } from '$lib/core/services';
  import { useReader } from '$lib/ui/time/reader';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  let problem = $state('');

  /** Makes an empty board and opens it to be filled. */
  async function begin(): Promise<void> {
    const titles = new Set(data.boards.map(({ title }) => title));
    let title = 'New board';
    for (let number = 2; titles.has(title); number++) title = `New board ${number}`;
    const response = await fetch('/api/v1/boards', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ title })
    }).catch(() => null);
    const told = (await response?.json()) as { id: number; message?: string; remedy?: string } | undefined;
    if (response?.ok && told) await goto(withRange(`/boards/${told.id}?edit`));
    else problem = [told?.message, told?.remedy].filter(Boolean).join(' ') || 'Bussola is not reached. Try again.';
  }
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
    {#if mayEdit}<button class="btn btn-main ml-auto" onclick={begin}>New board</button>{/if}
  </div>
  {#if problem}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  <p class="mb-3 flex flex-wrap gap-x-3 gap-y-1 text-[13px]">
    <span class="text-quiet">Ready boards:</span>
    {#each ['watch', ...data.overview.services.map(({ service }) => service)] as service (service)}
      <a class="link" href={withRange(`/services/${service}/board`)}
        >{service === 'watch' ? 'Watch, a summary' : serviceByKey(service).title}</a
      >
    {/each}
  </p>
  {#if data.boards.length === 0}
    <div class="panel items-start gap-2 p-6!">
      <h2>A board holds signals side by side, for everybody here.</h2>
      <p class="text-quiet">
        Begin with a new one and say what you want to see, take a copy of a service’s ready board, or send a signal from
        the bench.
      </p>
      {#if mayEdit}<button class="btn btn-main" onclick={begin}>New board</button>{/if}
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
