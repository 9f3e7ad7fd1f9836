<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '$lib/ui/api';
  import FolderHead from '$lib/ui/board/list/FolderHead.svelte';
  import Star from '@lucide/svelte/icons/star';
  import { onMount } from 'svelte';
  import { goto, invalidate } from '$app/navigation';
  import { page } from '$app/state';
  import { serviceByKey, serviceOrder } from '$lib/core/services';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  let problem = $state('');
  let text = $state('');
  /** Boards chosen for the wall, in the order they were chosen. */
  let chosen = $state.raw<readonly number[]>([]);
  type Board = (typeof data.boards)[number];

  const boardCount = (count: number) => countOf(count, 'board');
  const words = $derived(text.trim().toLowerCase().split(/\s+/).filter(Boolean));
  const found = $derived(
    data.boards.filter(({ title, about, panels, service, owner }) => {
      const all = [title, about, ...panels, service ? serviceByKey(service).title : '', owner ?? '']
        .join(' ')
        .toLowerCase();
      return words.every((word) => all.includes(word));
    })
  );
  interface Folder {
    readonly name: string;
    /** Of one that people made. */
    readonly id?: number;
    readonly boards: readonly Board[];
  }
  const folders = $derived.by((): Folder[] => {
    if (words.length > 0) return found.length > 0 ? [{ name: 'Found', boards: found }] : [];
    const recent = [...found]
      .filter(({ seenAt }) => seenAt !== null)
      .sort((a, b) => (b.seenAt ?? 0) - (a.seenAt ?? 0))
      .slice(0, 5);
    const loose = found.filter(({ folder }) => folder === null);
    const services = [...new Set(loose.map(({ service }) => service))].sort((a, b) =>
      a === null ? 1 : b === null ? -1 : serviceOrder(a) - serviceOrder(b)
    );
    const all: Folder[] = [
      { name: 'Favourites', boards: found.filter(({ isFavourite }) => isFavourite) },
      ...(found.length > 8 ? [{ name: 'Recently opened', boards: recent }] : []),
      ...data.folders.map(({ id, name }) => ({ id, name, boards: found.filter(({ folder }) => folder === id) })),
      ...services.map((service) => ({
        name: service === null ? 'No service' : service === 'watch' ? 'Summaries' : serviceByKey(service).title,
        boards: loose.filter((board) => board.service === service)
      }))
    ];
    return all.filter(({ id, boards }) => boards.length > 0 || id !== undefined);
  });

  /** Makes an empty board and opens it to be filled. */
  async function begin(): Promise<void> {
    const titles = new Set(data.boards.map(({ title }) => title));
    let title = 'New board';
    for (let number = 2; titles.has(title); number++) title = `New board ${number}`;
    const reply = await callApi<{ id: number }>('POST', '/boards', { body: { title } });
    if (reply.kind === 'answered') await goto(withRange(`/boards/${reply.answer.id}?edit`));
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
  }

  /** Sends a change of folders; then the list shows it, or why it could not be made. */
  async function changeFolders(method: 'POST' | 'PUT' | 'DELETE', path: string, body?: object): Promise<void> {
    const reply = await callApi(method, path, body === undefined ? {} : { body });
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    await invalidate('bussola:boards');
  }
  function newFolder(): Promise<void> {
    const names = new Set(data.folders.map(({ name }) => name));
    let name = 'New folder';
    for (let number = 2; names.has(name); number++) name = `New folder ${number}`;
    return changeFolders('POST', '/folders', { name });
  }

  // The palette makes a new board by the address.
  onMount(() => {
    if (mayEdit && page.url.searchParams.has('new')) void begin();
  });

  async function toggleFavourite({ id, isFavourite }: Board): Promise<void> {
    await callApi('PUT', `/boards/${id}/favourite`, { body: { favourite: !isFavourite } }); // refused: the star stays as it is
    await Promise.all([invalidate('bussola:boards'), invalidate('bussola:overview')]);
  }
  const toggle = (id: number) => (chosen = chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]);
</script>

<svelte:head><title>Boards · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>
      {data.boards.length === 0 ? 'No board yet' : boardCount(data.boards.length)}
    </h1>
    <span class="text-quiet">and a ready board for each service</span>
    {#if data.boards.length > 0}
      <input
        class="field max-w-[240px]! text-[13px]!"
        type="search"
        placeholder="Title, panel or person"
        aria-label="Find a board"
        bind:value={text}
      />
    {/if}
    <span class="ml-auto flex gap-2">
      {#if chosen.length > 0}
        <a class="btn" href={withRange(`/wall?boards=${chosen.join(',')}`)}
          >Wall display with {boardCount(chosen.length)}</a
        >
      {/if}
      {#if mayEdit}
        <a class="btn" href={withRange('/boards/import')}>Import</a>
        <button class="btn" onclick={() => void newFolder()}>New folder</button>
        <button class="btn btn-main" onclick={begin}>New board</button>
      {/if}
    </span>
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
      <h2>Boards show signals side by side, for everyone in the workspace.</h2>
      <p class="text-quiet">
        Make a new board and choose what it shows, copy the ready board of a service, or send a signal from the bench.
      </p>
      {#if mayEdit}<button class="btn btn-main" onclick={begin}>New board</button>{/if}
    </div>
  {:else}
    {#each folders as { name, id, boards } (id ?? name)}
      <section class="panel mb-3" aria-label={name}>
        <FolderHead
          {name}
          boards={boards.length}
          mayChange={id !== undefined && mayEdit}
          onRename={(to: string) => void changeFolders('PUT', `/folders/${id}`, { name: to })}
          onRemove={() => void changeFolders('DELETE', `/folders/${id}`)}
        />
        {#if boards.length === 0}<p class="text-quiet text-[13px]">
            Empty. Move boards here with the list beside each board.
          </p>{/if}
        <table class={['rows', boards.length === 0 && 'hidden']}>
          <thead
            ><tr
              ><th class="w-8"><span class="sr-only">Favourite</span></th><th>Board</th><th>Panels</th><th>Owner</th><th
                >Changed</th
              >{#if mayEdit}<th>Folder</th>{/if}<th class="w-12">Wall</th></tr
            ></thead
          >
          <tbody>
            {#each boards as board (board.id)}
              <tr>
                <td
                  ><button
                    class="text-quiet align-middle"
                    aria-pressed={board.isFavourite}
                    aria-label="Favourite: {board.title}"
                    onclick={() => void toggleFavourite(board)}
                    ><Star size={14} fill={board.isFavourite ? 'currentColor' : 'none'} /></button
                  ></td
                >
                <td class="whitespace-nowrap"
                  ><a class="link" href={withRange(`/boards/${board.id}`)}>{board.title}</a></td
                >
                <td class="text-quiet max-w-[360px] truncate"
                  >{board.about || (board.panels.length === 0 ? 'none yet' : board.panels.join(', '))}</td
                >
                <td class="text-quiet whitespace-nowrap">{board.owner ?? '–'}{board.isPrivate ? ', private' : ''}</td>
                <td class="text-quiet whitespace-nowrap"
                  ><Moment at={board.changedAt} now={live.now} /> by {board.changedBy}</td
                >
                {#if mayEdit}<td
                    >{#if board.may === 'edit'}<select
                        class="part max-w-[150px]"
                        aria-label="Folder of {board.title}"
                        value={String(board.folder ?? '')}
                        onchange={(event) =>
                          void changeFolders('PUT', `/boards/${board.id}/folder`, {
                            folder: event.currentTarget.value === '' ? null : Number(event.currentTarget.value)
                          })}
                      >
                        <option value=""
                          >{board.service === null
                            ? 'none'
                            : board.service === 'watch'
                              ? 'Summaries'
                              : serviceByKey(board.service).title}</option
                        >
                        {#each data.folders as { id, name } (id)}<option value={String(id)}>{name}</option>{/each}
                      </select>{/if}</td
                  >{/if}
                <td
                  ><input
                    type="checkbox"
                    aria-label="{board.title} on the wall"
                    checked={chosen.includes(board.id)}
                    onchange={() => toggle(board.id)}
                  /></td
                >
              </tr>
            {/each}
          </tbody>
        </table>
      </section>
    {:else}
      <p class="text-quiet text-[13px]">No board matches these words.</p>
    {/each}
  {/if}
</main>
