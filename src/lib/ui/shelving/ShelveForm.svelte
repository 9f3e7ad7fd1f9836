<script lang="ts">
  import { DateTime } from 'luxon';
  import type { RoutingChoices } from '$lib/core/notify/route';
  import type { Scope } from '$lib/core/shelving';
  import { textFromInstant, type Instant } from '$lib/core/time';
  import { untrack } from 'svelte';
  import { callApi, wordsOf } from '../api';
  import ManyPart from '../forms/ManyPart.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    /** Shelved now because of an incident, or maintenance that is planned. */
    kind: 'shelved' | 'maintenance';
    /** What is shelved, with what each choice is called; the first is taken unless another is chosen. None for what is put together here. */
    scopes?: readonly { readonly text: string; readonly scope: Partial<Scope> }[];
    choices?: RoutingChoices;
    resources?: readonly { readonly name: string }[];
    now: Instant;
    onDone: (says: string) => void;
    onCancel: () => void;
  }
  let { kind, scopes = [], choices, resources = [], now, onDone, onCancel }: Props = $props();
  const { zone } = useReader();
  const lengths = [
    [30, '30 minutes'],
    [60, '1 hour'],
    [180, '3 hours'],
    [480, '8 hours'],
    [1440, '1 day'],
    [10_080, '1 week']
  ] as const;
  let minutes = $state(60);
  let which = $state(0);
  let reason = $state('');
  const local = (at: DateTime) => at.toFormat("yyyy-MM-dd'T'HH:mm");
  const tomorrow = untrack(() => DateTime.fromMillis(now, { zone }).plus({ days: 1 }).startOf('day'));
  let from = $state(local(tomorrow.plus({ hours: 2 })));
  let to = $state(local(tomorrow.plus({ hours: 4 })));
  let recurs = $state('');
  let chosen = $state<{ services: string[]; resources: string[]; groupIds: number[]; accounts: string[] }>({
    services: [],
    resources: [],
    groupIds: [],
    accounts: []
  });
  let problem = $state('');
  let isBusy = $state(false);
  const names = $derived([...new Set(resources.map(({ name }) => name))]);

  async function send(): Promise<void> {
    const [first, last] = [DateTime.fromISO(from, { zone }), DateTime.fromISO(to, { zone })];
    if (kind === 'maintenance' && (!first.isValid || !last.isValid)) {
      problem = 'Give both times.';
      return;
    }
    isBusy = true;
    const text = (at: DateTime) => textFromInstant(at.toMillis() as Instant);
    const span =
      kind === 'shelved'
        ? { to: textFromInstant((now + minutes * 60_000) as Instant) }
        : { from: text(first), to: text(last), recurs: recurs === '' ? null : recurs };
    const scope = kind === 'shelved' ? (scopes[which]?.scope ?? {}) : chosen;
    const reply = await callApi('POST', '/shelvings', { body: { kind, reason, scope, zone, ...span } });
    isBusy = false;
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    if (reply.kind === 'answered')
      onDone(
        kind === 'shelved' ? 'It is shelved: messages are held back until it ends.' : 'The maintenance is planned.'
      );
  }
</script>

<form
  class="panel mb-2.5 gap-2"
  aria-label={kind === 'shelved' ? 'Shelve' : 'Plan maintenance'}
  onsubmit={(event) => {
    event.preventDefault();
    void send();
  }}
>
  <p class="sentence text-[15px]!">
    {#if kind === 'shelved'}
      Shelve
      <select class="part" aria-label="What is shelved" bind:value={which}>
        {#each scopes as { text }, index (text)}<option value={index}>{text}</option>{/each}
      </select>
      for
      <select class="part" aria-label="For how long" bind:value={minutes}>
        {#each lengths as [length, text] (length)}<option value={length}>{text}</option>{/each}
      </select>,
    {:else}
      Hold messages back of
      <ManyPart
        label="Services"
        options={(choices?.services ?? []).map(({ key, title }) => ({ value: key, text: title }))}
        chosen={chosen.services}
        onChange={(services: string[]) => (chosen.services = services)}
        none="any service"
      />, on
      <ManyPart
        label="Resources"
        options={names.map((value) => ({ value, text: value }))}
        chosen={chosen.resources}
        onChange={(some: string[]) => (chosen.resources = some)}
        none="any resource"
      />, of
      <ManyPart
        label="Accounts"
        options={(choices?.accounts ?? []).map((value) => ({ value, text: value }))}
        chosen={chosen.accounts}
        onChange={(accounts: string[]) => (chosen.accounts = accounts)}
        none="any account"
      />{#if (choices?.groups ?? []).length > 0}, in
        <ManyPart
          label="Groups"
          options={(choices?.groups ?? []).map(({ id, name }) => ({ value: String(id), text: name }))}
          chosen={chosen.groupIds.map(String)}
          onChange={(ids: string[]) => (chosen.groupIds = ids.map(Number))}
          none="any group or none"
        />{/if}
      from <input class="part" type="datetime-local" aria-label="From" required bind:value={from} /> to
      <input class="part" type="datetime-local" aria-label="To" required bind:value={to} />,
      <select class="part" aria-label="How often" bind:value={recurs}>
        <option value="">once</option>
        <option value="FREQ=DAILY">every day</option>
        <option value="FREQ=WEEKLY">every week</option>
        <option value="FREQ=WEEKLY;INTERVAL=2">every second week</option>
        <option value="FREQ=MONTHLY">every month</option>
      </select>,
    {/if}
    because
    <input class="part" aria-label="Reason" placeholder="the reason" maxlength="300" bind:value={reason} />.
  </p>
  <div class="flex gap-2">
    <button class="btn btn-main" disabled={isBusy}>{kind === 'shelved' ? 'Shelve' : 'Plan maintenance'}</button>
    <button type="button" class="btn" onclick={onCancel}>Cancel</button>
  </div>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
</form>
