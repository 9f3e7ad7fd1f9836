<script lang="ts">
  import UsedBy from '$lib/ui/forms/UsedBy.svelte';
  import { invalidate } from '$app/navigation';
  import { calendarRows, layerSentence, rotaSchema, type Rota } from '$lib/core/rota';
  import { targetsOf } from '$lib/core/notify/route';
  import { dateAt, peopleDay, peopleMoment } from '$lib/core/time';
  import { countOf, formOf } from '$lib/core/words/count';
  import { callApi, wordsOf, type Reply } from '$lib/ui/api';
  import { useLive } from '$lib/ui/live/live.svelte';
  import ImportCalendar from '$lib/ui/rota/ImportCalendar.svelte';
  import RotaCalendar from '$lib/ui/rota/RotaCalendar.svelte';
  import RotaEditor from '$lib/ui/rota/RotaEditor.svelte';
  import ShiftForm from '$lib/ui/rota/ShiftForm.svelte';
  import TryIncident from '$lib/ui/route/TryIncident.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const reader = useReader();
  const { mayEdit, personId } = reader;
  const zone = $derived(reader.zone);
  const nameOf = (id: number) => data.choices.people.find((one) => one.id === id)?.displayName ?? 'somebody';

  let chosenId = $state<number | null>(null);
  const chosen = $derived(data.rotas.find(({ id }) => id === chosenId) ?? data.rotas[0] ?? null);
  let editing = $state.raw<{ id: number | null; version: number; rota: Rota } | null>(null);
  let draft = $state.raw<Rota | null>(null);
  let asking = $state<'swap' | 'override' | 'import' | null>(null);
  let isBusy = $state(false);
  let problem = $state('');
  let says = $state('');
  let address = $state('');
  let isRemoving = $state(false);

  const shown = $derived(
    data.rotas
      .map(({ id, rota }) => ({ id, rota: editing?.id === id && draft ? draft : rota }))
      .concat(editing?.id === null && draft ? [{ id: 0, rota: draft }] : [])
      .map((one) => ({ ...one, overrides: data.overrides.filter(({ rotaId }) => rotaId === one.id) }))
  );
  const rows = $derived(calendarRows(shown, data.within));
  const first = $derived(data.onCall.find(({ person }) => person !== null) ?? data.onCall[0]);
  const clock = (at: number, of: string) =>
    peopleMoment(at as never, live.now, { zone: of, locale: reader.dates.locale });
  const heading = $derived.by(() => {
    if (data.rotas.length === 0) return 'Nobody is on call yet.';
    if (!first?.person) return `Nobody has the watch for ${first?.rota ?? 'any rota'}.`;
    const until = first.until === null ? '' : ` until ${clock(first.until, zone)}`;
    const next = first.until === null ? '' : `, then ${first.next ?? 'nobody'}`;
    return `${first.person} has the watch for ${first.rota}${until}${next}.`;
  });
  const gaps = $derived(data.onCall.filter(({ gap }) => gap !== null));
  const nights = $derived(data.nights.reduce((sum, one) => sum + one.nights, 0));
  const users = $derived(
    chosen === null
      ? []
      : data.choices.routes.flatMap(({ id, route }) =>
          targetsOf(route).some((target) => target.kind === 'rota' && target.rotaId === chosen.id)
            ? [{ id, name: route.name }]
            : []
        )
  );
  const ownOverrides = $derived(data.overrides.filter(({ rotaId, to }) => rotaId === chosen?.id && to > live.now));

  const usual = (): Rota =>
    rotaSchema.parse({
      name: 'new',
      zone,
      layers: [{ people: [personId], days: 7, from: dateAt(live.now, zone), at: '08:00' }]
    });

  async function done(reply: Reply<unknown>, told = ''): Promise<void> {
    isBusy = false;
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    if (reply.kind === 'answered') {
      [editing, draft, isRemoving] = [null, null, false];
      says = told;
    }
    await invalidate('bussola:overview');
  }
  async function save(rota: Rota): Promise<void> {
    if (editing === null) return;
    isBusy = true;
    const { id, version } = editing;
    await done(
      id === null
        ? await callApi('POST', '/rotas', { body: rota })
        : await callApi('PUT', `/rotas/${id}`, { body: { rota, version } }),
      `${rota.name} is saved.`
    );
  }
  async function answer(id: number, what: 'accept' | 'decline' | 'withdraw'): Promise<void> {
    await done(await callApi('POST', `/swaps/${id}/${what}`), 'The swap is answered.');
  }
  async function subscribe(rotaId: number | null): Promise<void> {
    const reply = await callApi<{ address: string }>('POST', '/calendars', { body: { rotaId } });
    if (reply.kind === 'answered') address = reply.answer.address;
    await done(reply);
  }
</script>

<svelte:head><title>Rotas · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2.5 flex items-start gap-3 max-md:flex-col">
    <div>
      <h1>{heading}</h1>
      <p class="text-quiet text-[13px]">
        {#each gaps as { rotaId, rota, gap } (rotaId)}{#if gap}{rota} has nobody
            <b class="text-major">{gap.from <= live.now ? 'now' : clock(gap.from, zone)} to {clock(gap.to, zone)}</b>.
          {/if}{/each}
        {#if nights > 0}{countOf(nights, 'night')} of the last 90 days {formOf(nights, 'was', 'were')} disturbed: {data.nights
            .map((one) => `${one.name} ${one.nights}`)
            .join(', ')}.{:else if data.rotas.length > 0}No night of the last 90 days was disturbed.{/if}
      </p>
    </div>
    <div class="ml-auto flex flex-wrap gap-2">
      {#if data.rotas.length > 0}
        <button class="btn" onclick={() => void subscribe(null)}>Calendar of my shifts</button>
        <button class="btn" onclick={() => (asking = 'swap')}>Swap…</button>
        {#if mayEdit}<button class="btn" onclick={() => (asking = 'override')}>Change a shift…</button>{/if}
      {/if}
      {#if mayEdit}<button
          class="btn btn-main"
          onclick={() => (editing = { id: null, version: 0, rota: { ...usual(), name: '' } })}>New rota</button
        >{/if}
    </div>
  </div>
  {#if problem && editing === null}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  {#if says}<p class="text-ok mb-2 text-[13px]" role="status">{says}</p>{/if}
  {#if address}<p class="panel mb-2.5 text-[13px]" role="status">
      <span
        >Subscribe to this address in your calendar program. It is shown only now, and whoever has it can read it:</span
      >
      <code class="num break-all">{address}</code>
    </p>{/if}
  {#if asking === 'swap' || asking === 'override'}
    <ShiftForm
      kind={asking}
      rotas={data.choices.rotas}
      people={data.choices.people}
      rotaId={chosen?.id ?? 0}
      now={live.now}
      onDone={(text: string) => {
        [asking, says, problem] = [null, text, ''];
        void invalidate('bussola:overview');
      }}
      onCancel={() => (asking = null)}
    />
  {/if}
  {#each data.swaps as swap (swap.id)}
    <div class="panel mb-2 flex flex-row! flex-wrap items-center gap-2 text-[13px]" aria-label="Swap" role="group">
      <span
        ><b>{nameOf(swap.askedBy)}</b> asks <b>{nameOf(swap.askedOf)}</b> to take over {data.choices.rotas.find(
          ({ id }) => id === swap.rotaId
        )?.name}, <Moment at={swap.from} now={live.now} /> to <Moment at={swap.to} now={live.now} />.</span
      >
      {#if swap.askedOf === personId}
        <button class="btn btn-main" onclick={() => void answer(swap.id, 'accept')}>Accept</button>
        <button class="btn" onclick={() => void answer(swap.id, 'decline')}>Decline</button>
      {:else if swap.askedBy === personId}
        <button class="btn" onclick={() => void answer(swap.id, 'withdraw')}>Withdraw</button>
      {:else}<span class="text-quiet">not answered yet</span>{/if}
    </div>
  {/each}
  <section class="panel mb-2.5" aria-label="Two weeks">
    <header>
      <h2>Two weeks</h2>
      <small>{zone}. Dashed: taken over. Hatched: nobody.</small>
      <span class="ml-auto flex items-center gap-2 text-[13px]">
        <a class="btn px-1.5!" href="?week={data.previous}" aria-label="Two weeks back">‹</a>
        <span class="num">{peopleDay(data.within.from, zone)}</span>
        <a class="btn px-1.5!" href="?week={data.next}" aria-label="Two weeks ahead">›</a>
      </span>
    </header>
    {#if rows.length > 0}
      <RotaCalendar
        {rows}
        within={data.within}
        {zone}
        now={live.now}
        {nameOf}
        {personId}
        chosen={editing?.id ?? chosen?.id ?? null}
        onChoose={(id: number) => (chosenId = id)}
      />
    {:else}<p class="text-quiet text-[13px]">
        A rota says who has the watch when. Routes notify whoever has it. {#if mayEdit}Make the first one with “New
          rota”.{/if}
      </p>{/if}
  </section>
  <div class="grid grid-cols-[3fr_2fr] gap-2.5 max-lg:grid-cols-1">
    <section class="panel gap-2" aria-label="The rota in words">
      {#if editing}
        <header>
          <h2>{editing.id === null ? 'New rota' : editing.rota.name}</h2>
          <small>what you change is drawn above before it is saved</small>
        </header>
        <RotaEditor
          rota={editing.rota}
          people={data.choices.people}
          now={live.now}
          isNew={editing.id === null}
          {problem}
          busy={isBusy}
          onSave={(rota: Rota) => void save(rota)}
          onCancel={() => ([editing, draft, problem] = [null, null, ''])}
          onDraft={(rota: Rota | null) => (draft = rota)}
        />
      {:else if chosen}
        <header>
          <h2>{chosen.rota.name}</h2>
          <small>the rota in words</small>
        </header>
        {#each chosen.rota.layers as layer, position (position)}
          <p class="text-[14px]">
            {#if layer.name}<b>{layer.name}:</b>{/if}
            {layerSentence(layer, chosen.rota, nameOf)}
          </p>
        {/each}
        <p class="text-quiet text-[13px]">
          {#if users.length > 0}Notified by {#each users as { id, name }, index (id)}{index > 0 ? ', ' : ''}<a
                class="link"
                href="/routes#route-{id}">{name}</a
              >{/each}.{:else}<span class="fault">No route notifies whoever has this watch.</span>
            <a class="link" href="/routes">See the routes</a>{/if}
        </p>
        {#each ownOverrides as override (override.id)}
          <p class="flex items-center gap-2 text-[13px]">
            <span
              ><b>{nameOf(override.personId)}</b> from <Moment at={override.from} now={live.now} /> to <Moment
                at={override.to}
                now={live.now}
              />{override.reason === '' ? '' : `: ${override.reason}`}
              <span class="text-quiet">({override.createdBy})</span></span
            >
            {#if mayEdit}<button
                class="btn"
                onclick={async () =>
                  done(await callApi('DELETE', `/overrides/${override.id}`), 'The shift is as the layers say again.')}
                >Remove</button
              >{/if}
          </p>
        {/each}
        {#each data.links.filter(({ rotaId }) => rotaId === chosen?.id || rotaId === null) as link (link.id)}
          <p class="text-quiet flex items-center gap-2 text-[13px]">
            <span
              >Calendar of {link.rotaId === null ? 'my shifts' : chosen.rota.name}, made by {link.createdBy}, {#if link.readAt}read
                <Moment at={link.readAt} now={live.now} />{:else}never read{/if}</span
            >
            {#if mayEdit}<button
                class="btn"
                onclick={async () => done(await callApi('DELETE', `/calendars/${link.id}`), 'The address is removed.')}
                >Remove</button
              >{/if}
          </p>
        {/each}
        {#if asking === 'import'}
          <ImportCalendar
            rotaId={chosen.id}
            {nameOf}
            onDone={(text: string) => {
              [asking, says, problem] = [null, text, ''];
              void invalidate('bussola:overview');
            }}
            onCancel={() => (asking = null)}
          />
        {/if}
        <div class="flex flex-wrap gap-2">
          <button class="btn" onclick={() => chosen && void subscribe(chosen.id)}>Subscribe to calendar</button>
          {#if mayEdit}
            <button class="btn" onclick={() => (asking = 'import')}>Import a calendar…</button>
            <button
              class="btn"
              onclick={() => chosen && (editing = { id: chosen.id, version: chosen.version, rota: chosen.rota })}
              >Change</button
            >
            {#if isRemoving}
              <span class="self-center text-[13px]" role="alert"
                >Remove {chosen.rota.name}? <UsedBy things={[{ kind: 'rota', id: chosen.id }]} /></span
              >
              <button
                class="btn btn-main"
                onclick={async () =>
                  chosen && done(await callApi('DELETE', `/rotas/${chosen.id}`), `${chosen.rota.name} is removed.`)}
                >Remove</button
              >
              <button class="btn" onclick={() => (isRemoving = false)}>Cancel</button>
            {:else}<button class="btn" onclick={() => (isRemoving = true)}>Remove…</button>{/if}
          {/if}
        </div>
      {:else}<p class="text-quiet text-[13px]">No rota is chosen.</p>{/if}
    </section>
    <TryIncident
      choices={data.choices}
      resources={data.resources}
      incidents={data.incidents}
      now={live.now}
      version={data.rotas}
    />
  </div>
</main>
