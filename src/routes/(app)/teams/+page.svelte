<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { mayAdminister } = useReader();
  const acting = new Acting();
  let name = $state('');
  let opened = $state<number | null>(null);
  let draft = $state<{ name: string; memberIds: number[] }>({ name: '', memberIds: [] });
  const nameOf = (id: number) => data.people.find((one) => one.id === id)?.displayName ?? 'somebody';

  async function add(): Promise<void> {
    if ((await acting.call('POST', '/teams', { body: { name } }, `The team ${name} is made.`)) !== null) name = '';
  }
  async function save(id: number): Promise<void> {
    const done = await acting.call('PUT', `/teams/${id}`, { body: $state.snapshot(draft) }, 'The team is saved.');
    if (done !== null) opened = null;
  }
  async function remove(id: number, called: string): Promise<void> {
    if ((await acting.call('DELETE', `/teams/${id}`, {}, `The team ${called} is removed.`)) !== null) opened = null;
  }
</script>

<svelte:head><title>Teams · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-center gap-3">
    <h1>{data.teams.length === 0 ? 'No team yet.' : countOf(data.teams.length, 'team')}</h1>
    {#if mayAdminister}<form
        class="ml-auto flex gap-2"
        onsubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <input
          class="field"
          aria-label="Name of a new team"
          placeholder="name"
          maxlength="60"
          required
          bind:value={name}
        />
        <button class="btn whitespace-nowrap" disabled={acting.busy}>Make a team</button>
      </form>{/if}
  </div>
  <p class="text-quiet mb-2.5 text-[13px]">
    A team owns alarms, boards and rotas together: give them to it on their own pages. Who is in a team decides nothing
    about rights.
  </p>
  <Outcome {acting} />
  <div class="grid gap-3 md:grid-cols-2">
    {#each data.teams as team (team.id)}
      <section class="panel gap-2" aria-label="Team {team.name}">
        <div class="flex items-baseline gap-3">
          <h2>{team.name}</h2>
          {#if mayAdminister && opened !== team.id}<button
              class="btn ml-auto"
              onclick={() => {
                opened = team.id;
                draft = { name: team.name, memberIds: [...team.memberIds] };
              }}>Change…<span class="sr-only"> {team.name}</span></button
            >{/if}
        </div>
        {#if opened === team.id}
          <label class="flex items-center gap-2"
            >Name <input class="field" maxlength="60" bind:value={draft.name} /></label
          >
          <fieldset class="flex flex-wrap gap-x-4 gap-y-1">
            <legend class="text-[13px] font-semibold">Members</legend>
            {#each data.people as { id, displayName } (id)}<label
                ><input type="checkbox" value={id} bind:group={draft.memberIds} /> {displayName}</label
              >{/each}
          </fieldset>
          <div class="flex gap-2">
            <button class="btn btn-main" disabled={acting.busy} onclick={() => save(team.id)}>Save</button>
            <button class="btn" onclick={() => (opened = null)}>Cancel</button>
            <button class="btn ml-auto" disabled={acting.busy} onclick={() => remove(team.id, team.name)}
              >Remove the team</button
            >
          </div>
        {:else}
          <p>{team.memberIds.length === 0 ? 'Nobody is in it.' : team.memberIds.map(nameOf).join(', ')}</p>
        {/if}
        <dl class="grid grid-cols-[4.5rem_1fr] gap-x-2 text-[13px]">
          <dt class="text-quiet">Alarms</dt>
          <dd>
            {#each team.alarms as { id, name: called }, index (id)}{index > 0 ? ', ' : ''}<a
                class="link"
                href="/alarms/{id}">{called}</a
              >{:else}<span class="text-quiet">none</span>{/each}
          </dd>
          <dt class="text-quiet">Boards</dt>
          <dd>
            {#each team.boards as { id, name: called }, index (id)}{index > 0 ? ', ' : ''}<a
                class="link"
                href="/boards/{id}">{called}</a
              >{:else}<span class="text-quiet">none</span>{/each}
          </dd>
          <dt class="text-quiet">Rotas</dt>
          <dd>
            {#each team.rotas as { id, name: called }, index (id)}{index > 0 ? ', ' : ''}<a class="link" href="/rotas"
                >{called}</a
              >{:else}<span class="text-quiet">none</span>{/each}
          </dd>
        </dl>
      </section>
    {/each}
  </div>
</main>
