<script lang="ts">
  import { SvelteSet } from 'svelte/reactivity';
  import { invalidate } from '$app/navigation';
  import { peopleDate, type Instant } from '$lib/core/time';
  import { callApi, wordsOf } from '$lib/ui/api';
  import AskedButton from '$lib/ui/forms/AskedButton.svelte';
  import MadeBy from '$lib/ui/tidy/MadeBy.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { mayEdit, dates } = useReader();
  const kindWords: Readonly<Record<string, string>> = {
    ...{ alarms: 'alarm', boards: 'board', budgets: 'budget', channels: 'channel', checks: 'check' },
    ...{
      connectors: 'connector',
      followers: 'follower',
      derived: 'derived metric',
      'event-rules': 'event rule',
      folders: 'folder',
      groups: 'group'
    },
    ...{ 'line-rules': 'line rule', marks: 'mark', objectives: 'promise', responses: 'response', rotas: 'rota' },
    ...{ routes: 'route', signals: 'signal', 'summary-plans': 'summary', teams: 'team' }
  };
  interface Listed {
    readonly id: number;
    readonly name: string;
    readonly at: Instant | null;
    readonly isPrivate?: boolean;
  }
  interface Section {
    readonly title: string;
    readonly about: string;
    readonly all: readonly Listed[];
    /** Where one is, and what removes it; the latter not of what is removed on its own page. */
    readonly href: (id: number) => string;
    readonly path: string | null;
  }
  const sections = $derived<Section[]>([
    {
      ...{ title: 'Channels without a route', about: 'nobody is notified by them', all: data.channels },
      ...{ href: () => '/channels', path: '/channels' }
    },
    {
      ...{ title: 'Alarms that were never raised', about: 'in 30 days', all: data.neverRaised },
      ...{ href: (id: number) => `/alarms/${id}`, path: '/alarms' }
    },
    {
      ...{ title: 'Alarms that are always raised', about: 'nobody learns anything of them', all: data.alwaysRaised },
      ...{ href: (id: number) => `/alarms/${id}`, path: '/alarms' }
    },
    {
      ...{ title: 'Boards that nobody opened', about: 'in 90 days', all: data.boards },
      ...{ href: (id: number) => `/boards/${id}`, path: '/boards' }
    },
    {
      ...{ title: 'Keys', about: 'expired, or not used in 90 days', all: data.keys },
      ...{ href: () => '/receive', path: null }
    },
    {
      ...{ title: 'Links that expired', about: 'they show nothing any more', all: data.links },
      ...{ href: () => '/boards', path: '/board-links' }
    },
    {
      ...{ title: 'People who may not sign in', about: 'what they made is still here', all: data.people },
      ...{ href: () => '/people', path: null }
    }
  ]);
  const count = $derived(sections.reduce((sum, { all }) => sum + all.length, 0));
  const heading = $derived.by(() => {
    if (count === 1) return 'One thing is used by nobody.';
    if (count > 1) return `${count} things are used by nobody.`;
    return data.metrics.length === 0 ? 'Everything is used.' : 'Everything is used, but for some metrics.';
  });
  const chosen = new SvelteSet<string>();
  const keyOf = (path: string, id: number) => `${path}/${id}`;
  /** What somebody made, as it was listed last. */
  let made = $state.raw<readonly string[]>([]);
  /** Those that are chosen and still there. */
  const wanted = $derived([
    ...new Set([
      ...sections.flatMap(({ path, all }) =>
        path === null ? [] : all.map(({ id }) => keyOf(path, id)).filter((key) => chosen.has(key))
      ),
      ...made.filter((key) => chosen.has(key))
    ])
  ]);
  /** Of which it can be asked what uses them: boards name others, and nothing names them. */
  const usedKinds: Readonly<Record<string, string>> = {
    ...{ '/channels': 'channel', '/alarms': 'alarm', '/routes': 'route', '/rotas': 'rota', '/groups': 'group' },
    ...{ '/boards': 'board', '/derived': 'derived' }
  };
  const thingsChosen = $derived(
    wanted.flatMap((key) => {
      const [, place = '', id = ''] = key.split('/');
      const kind = usedKinds[`/${place}`];
      return kind === undefined ? [] : [{ kind, id: Number(id) }];
    })
  );
  let done = $state(0);
  let asked = $state(0);
  let working = $state(false);
  let back = $state('');
  let problems = $state<readonly string[]>([]);

  async function remove(): Promise<void> {
    [done, problems, working] = [0, [], true];
    const keys = [...wanted];
    asked = keys.length;
    for (const key of keys) {
      const reply = await callApi('DELETE', key);
      chosen.delete(key);
      if (reply.kind === 'answered') done++;
      else if (reply.kind === 'refused') problems = [...problems, wordsOf(reply.problem)];
    }
    await invalidate('bussola:overview');
    working = false;
  }
  async function restore({ id, name }: PageProps['data']['removals'][number]): Promise<void> {
    [done, problems, working, back] = [0, [], true, ''];
    const reply = await callApi('POST', `/removals/${id}/restore`);
    if (reply.kind === 'refused') problems = [wordsOf(reply.problem)];
    if (reply.kind === 'answered') back = `${name === '' ? 'It' : name} is back as it was.`;
    await invalidate('bussola:overview');
    working = false;
  }
  function toggle(key: string): void {
    if (!chosen.delete(key)) chosen.add(key);
  }
</script>

<svelte:head><title>Tidying up · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1>{heading}</h1>
  <p class="text-quiet mb-3 text-[14px]">
    What can go without anybody missing it. What was removed can be restored for 30 days.
  </p>
  <p role="status" class="text-[13px]">
    {#if working}{done} of {asked} removed…{:else if done > 0}{done} removed.{:else}{back}{/if}
  </p>
  {#each problems as problem, index (index)}<p class="fault text-[13px]" role="alert">{problem}</p>{/each}
  {#if mayEdit && wanted.length > 0}
    <p class="mb-2.5">
      <AskedButton
        label="Remove {wanted.length} chosen"
        question="Remove {wanted.length === 1 ? 'it' : `all ${wanted.length}`}?"
        things={thingsChosen}
        disabled={working}
        onConfirm={() => void remove()}
      />
    </p>
  {/if}
  <div class="grid grid-cols-2 gap-2.5 max-lg:grid-cols-1">
    {#each sections as { title, about, all, href, path } (title)}
      <section class="panel" aria-label={title}>
        <header>
          <h2>{title}</h2>
          <small>{about}</small>
        </header>
        <ul class="max-h-[240px] overflow-y-auto text-[13px]">
          {#each all as { id, name, at, isPrivate } (id)}
            {@const key = path === null ? null : keyOf(path, id)}
            <li class="border-line flex items-center gap-2 border-b py-1 last:border-b-0">
              {#if mayEdit && key !== null && !isPrivate}<input
                  type="checkbox"
                  aria-label="Choose {name}"
                  checked={chosen.has(key)}
                  disabled={working}
                  onchange={() => toggle(key)}
                />{/if}
              <a class="truncate hover:underline" href={href(id)}>{name}</a>
              {#if at !== null}<span class="text-quiet ml-auto whitespace-nowrap">{peopleDate(at, dates)}</span>{/if}
            </li>
          {:else}<li class="text-quiet py-1">None.</li>{/each}
        </ul>
      </section>
    {/each}
    <MadeBy
      me={data.me}
      makers={data.makers}
      signedInAt={data.signedInAt}
      {kindWords}
      {chosen}
      mayChoose={mayEdit && !working}
      read={done + data.removals.length}
      onListed={(keys: readonly string[]) => (made = keys)}
      onToggle={toggle}
    />
    <section class="panel col-span-full" aria-label="Removed lately">
      <header>
        <h2>Removed lately</h2>
        <small>each with what went with it, as it was</small>
      </header>
      <ul class="max-h-[240px] overflow-y-auto text-[13px]">
        {#each data.removals as removal (removal.id)}
          <li class="border-line flex items-baseline gap-3 border-b py-1 last:border-b-0">
            <span class="min-w-0 flex-1 break-words"
              ><b>{removal.name === '' ? 'without a name' : removal.name}</b>
              <span class="text-quiet">{kindWords[removal.kind] ?? removal.kind}, by {removal.removedBy}</span></span
            >
            <span class="text-quiet whitespace-nowrap">{peopleDate(removal.removedAt, dates)}</span>
            {#if mayEdit}<button class="btn" disabled={working} onclick={() => void restore(removal)}
                >Restore<span class="sr-only"> {removal.name}</span></button
              >{/if}
          </li>
        {:else}<li class="text-quiet py-1">Nothing in 30 days.</li>{/each}
      </ul>
    </section>
    <section class="panel col-span-full" aria-label="Metrics that nothing looks at">
      <header>
        <h2>Metrics that nothing looks at</h2>
        <small>collected, but in no alarm, board, signal or promise; those with the most samples first</small>
      </header>
      <div class="max-h-[300px] overflow-y-auto">
        <table class="rows text-[13px]">
          <thead><tr><th>Metric</th><th class="right">Series</th><th class="right">Samples a day</th></tr></thead>
          <tbody>
            {#each data.metrics as { name, title, service, series, samplesADay } (name)}
              <tr>
                <td
                  ><a class="hover:underline" href="/coverage?service={service}">{title}</a>
                  <span class="num text-quiet">{name}</span></td
                >
                <td class="num right">{series}</td>
                <td class="num right">{samplesADay.toLocaleString('en')}</td>
              </tr>
            {:else}<tr><td colspan="3" class="text-quiet">None.</td></tr>{/each}
          </tbody>
        </table>
      </div>
    </section>
  </div>
</main>
