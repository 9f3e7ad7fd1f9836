<script lang="ts">
  import UsedBy from '$lib/ui/forms/UsedBy.svelte';
  import { shortKindWords } from '$lib/core/notify';
  import { invalidate } from '$app/navigation';
  import {
    addressesOf,
    conditionText,
    groupText,
    namesIn,
    routeSchema,
    stepsText,
    type Route
  } from '$lib/core/notify/route';
  import { countOf, formOf } from '$lib/core/words/count';
  import { callApi, wordsOf, type Reply } from '$lib/ui/api';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { stateWords } from '$lib/ui/notify/message-words';
  import HeldBack from '$lib/ui/shelving/HeldBack.svelte';
  import RouteEditor from '$lib/ui/route/RouteEditor.svelte';
  import TryIncident from '$lib/ui/route/TryIncident.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit, zone } = useReader();
  const names = $derived(namesIn(data.choices));
  type Editing = { kind: 'route'; id: number; version: number; route: Route } | { kind: 'list' | 'last'; route: Route };
  let editing = $state.raw<Editing | null>(null);
  let isBusy = $state(false);
  let problem = $state('');
  let removing = $state<number | null>(null);

  const listed = $derived(data.routes.filter(({ place, isLast }) => isLast || place !== null));
  const named = $derived(data.routes.filter(({ place, isLast }) => !isLast && place === null));
  const inOrder = $derived(listed.filter(({ isLast }) => !isLast));
  const last = $derived(listed.find(({ isLast }) => isLast));
  /** Routes whose first step reaches nobody who has confirmed. */
  const deaf = $derived(
    listed.filter(({ route }) =>
      (route.steps[0]?.notify ?? []).every((target) => addressesOf(target, data.choices).confirmed === 0)
    )
  );
  const unconfirmed = $derived(
    listed.filter(({ route }) =>
      route.steps.some(({ notify }) =>
        notify.some((target) => addressesOf(target, data.choices).unconfirmed.length > 0)
      )
    )
  );
  const heading = $derived(
    listed.length === 0
      ? 'Nobody is notified of incidents yet.'
      : last === undefined
        ? 'Incidents that no route takes reach nobody.'
        : deaf.length > 0
          ? `${deaf.length === 1 ? `The route ${deaf[0]?.route.name} reaches` : `${countOf(deaf.length, 'route')} reach`} nobody.`
          : 'Every incident reaches somebody.'
  );

  const usual = (name: string): Route => ({
    ...routeSchema.parse({
      name: name || 'new',
      when: {},
      steps: [{ after: 0, notify: [{ kind: 'channel', channelId: 1 }] }],
      group: { by: 'incident', wait: 0, atMostEvery: 0 },
      zone
    }),
    name,
    steps: [{ after: 0, notify: [] }]
  });

  async function done(reply: Reply<unknown>): Promise<void> {
    isBusy = false;
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    if (reply.kind === 'answered') [editing, removing] = [null, null];
    await invalidate('bussola:overview');
  }
  async function save(route: Route): Promise<void> {
    if (editing === null) return;
    isBusy = true;
    await done(
      editing.kind === 'route'
        ? await callApi('PUT', `/routes/${editing.id}`, { body: { route, version: editing.version } })
        : await callApi('POST', '/routes', { body: { route, place: editing.kind } })
    );
  }
  async function move(id: number, by: -1 | 1): Promise<void> {
    const ids = inOrder.map((one) => one.id);
    const from = ids.indexOf(id);
    const [moved] = ids.splice(from, 1);
    if (moved === undefined) return;
    ids.splice(from + by, 0, moved);
    isBusy = true;
    await done(await callApi('POST', '/routes/order', { body: { ids } }));
  }
  async function remove(id: number): Promise<void> {
    isBusy = true;
    await done(await callApi('DELETE', `/routes/${id}`));
  }
  function edit(row: (typeof data.routes)[number]): void {
    problem = '';
    editing = { kind: 'route', id: row.id, version: row.version, route: row.route };
  }
  function begin(kind: 'list' | 'last'): void {
    problem = '';
    editing = { kind, route: usual(kind === 'last' ? 'Everything else' : '') };
  }
</script>

<svelte:head><title>Routes · Bussola</title></svelte:head>

{#snippet editor(what: Editing, isLast: boolean)}
  <RouteEditor
    route={what.route}
    choices={data.choices}
    {isLast}
    isNew={what.kind !== 'route'}
    {problem}
    busy={isBusy}
    onSave={(route: Route) => void save(route)}
    onCancel={() => (editing = null)}
  />
{/snippet}

{#snippet row(one: (typeof data.routes)[number], place: string, position: number)}
  {@const { id, route, isLast, used } = one}
  {@const gone = route.steps.flatMap(({ notify }) =>
    notify.flatMap((target) => addressesOf(target, data.choices).unconfirmed)
  )}
  <tr id="route-{id}" data-route={route.name} class="align-top">
    <td class="num text-quiet">{place}</td>
    {#if editing?.kind === 'route' && editing.id === id}
      <td colspan="5" class="py-2!">{@render editor(editing, isLast)}</td>
    {:else}
      <td
        ><b>{route.name}</b><span class="block"
          >{place === ''
            ? 'alarms that name it'
            : isLast
              ? 'whatever no route above takes'
              : conditionText(route.when, names)}</span
        ></td
      >
      <td
        >{stepsText(route, names)}{#if gone.length > 0}<span class="fault block text-[12px]"
            >Not confirmed: {[...new Set(gone)].join(', ')}</span
          >{/if}</td
      >
      <td>{route.digestAt === null ? groupText(route.group) : 'one message a day'}</td>
      <td class="num right">{used}</td>
      <td class="right whitespace-nowrap">
        {#if mayEdit}
          {#if removing === id}
            <span class="text-[12px] whitespace-normal" role="alert"
              >Remove it? <UsedBy things={[{ kind: 'route', id }]} /></span
            >
            <button class="btn btn-main" disabled={isBusy} onclick={() => void remove(id)}>Remove</button>
            <button class="btn" onclick={() => (removing = null)}>Cancel</button>
          {:else}
            {#if place !== '' && !isLast}
              <button
                class="btn px-1.5!"
                aria-label="Move {route.name} up"
                disabled={isBusy || position === 0}
                onclick={() => void move(id, -1)}>↑</button
              >
              <button
                class="btn px-1.5!"
                aria-label="Move {route.name} down"
                disabled={isBusy || position === inOrder.length - 1}
                onclick={() => void move(id, 1)}>↓</button
              >
            {/if}
            <button class="btn" aria-label="Change {route.name}" onclick={() => edit(one)}>Change</button>
            {#if !isLast}<button class="btn" aria-label="Remove {route.name}" onclick={() => (removing = id)}
                >Remove…</button
              >{/if}
          {/if}
        {/if}
      </td>
    {/if}
  </tr>
{/snippet}

<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2.5 flex items-start gap-3 max-md:flex-col">
    <div>
      <h1 class={deaf.length > 0 || last === undefined ? 'fault' : ''}>{heading}</h1>
      <p class="text-quiet text-[13px]">
        {#if data.answered.count > 0}Of {countOf(data.answered.count, 'incident')} in 30 days, {data.answered.inTime}
          {formOf(data.answered.inTime, 'was', 'were')} acknowledged within 15 min.{/if}
        {#if unconfirmed.length > 0}
          {countOf(unconfirmed.length, 'route')}
          {formOf(unconfirmed.length, 'ends', 'end')} at something that
          <a class="link" href="/channels">was never confirmed</a>.{/if}
      </p>
    </div>
    {#if mayEdit}
      <div class="ml-auto flex items-center gap-2">
        <a class="link text-[13px]" href="/routes/files">As a file</a>
        {#if last === undefined}<button class="btn" onclick={() => begin('last')}>Add the last route</button>{/if}
        <button class="btn btn-main" onclick={() => begin('list')}>Add a route</button>
      </div>
    {/if}
  </div>
  {#if problem && editing === null}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  {#if editing && editing.kind !== 'route'}
    <section class="panel mb-2.5" aria-label="New route">
      {@render editor(editing, editing.kind === 'last')}
    </section>
  {/if}
  <section class="panel mb-2.5 overflow-x-auto" aria-label="Routes">
    {#if listed.length + named.length > 0}
      <table class="rows min-w-[820px]">
        <thead
          ><tr
            ><th></th><th>When an incident is</th><th>Then notify</th><th>Grouped</th><th class="right">30 days</th><th
            ></th></tr
          ></thead
        >
        <tbody>
          {#each inOrder as one, position (one.id)}{@render row(one, String(position + 1), position)}{/each}
          {#if last}{@render row(last, 'last', -1)}
          {:else}<tr
              ><td class="num text-quiet">last</td><td class="fault" colspan="5"
                ><b>Everything else</b> reaches nobody: add the last route.</td
              ></tr
            >{/if}
          {#if named.length > 0}
            <tr><th></th><th colspan="5">Used only by alarms that name them</th></tr>
            {#each named as one (one.id)}{@render row(one, '', -1)}{/each}
          {/if}
        </tbody>
      </table>
    {:else}
      <p class="text-quiet text-[13px]">
        A route says who is notified of which incidents. Begin with the last one, which takes whatever no other takes;
        the first route of the list that fits has an incident.
      </p>
    {/if}
  </section>
  <div class="grid grid-cols-2 gap-2.5 max-lg:grid-cols-1">
    <TryIncident
      choices={data.choices}
      resources={data.resources}
      incidents={data.incidents}
      now={live.now}
      version={data.routes}
    />
    <HeldBack
      shelvings={data.shelvings}
      choices={data.choices}
      alarms={data.alarms}
      resources={data.resources}
      now={live.now}
    />
    <section class="panel col-span-2 max-lg:col-span-1" aria-label="Last messages">
      <header>
        <h2>Last messages</h2>
        <small><a class="link" href="/outbox">every attempt is in the outbox</a></small>
      </header>
      <table class="rows">
        <tbody>
          {#each data.messages as { id, channelKind, channel, subject, state, lastError, createdAt } (id)}
            <tr>
              <td class="whitespace-nowrap"><Moment at={createdAt} now={live.now} /></td>
              <td class="text-quiet">{channelKind === null ? '' : shortKindWords[channelKind]}</td>
              <td class="whitespace-nowrap">{channel}</td>
              <td><a class="link" href="/outbox?message={id}">{subject}</a></td>
              <td class={['right whitespace-nowrap', lastError ? 'fault' : 'text-quiet']}
                >{state === 'sent'
                  ? '✓ sent'
                  : stateWords(state, lastError === null ? null : 'failed').split(';')[0]}</td
              >
            </tr>
          {:else}<tr><td class="text-quiet">No message yet.</td></tr>{/each}
        </tbody>
      </table>
    </section>
  </div>
</main>
