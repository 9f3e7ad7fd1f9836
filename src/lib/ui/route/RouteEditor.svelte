<script lang="ts">
  import { severities, type Severity, type Times } from '$lib/core/alarm';
  import {
    contactKinds,
    type ContactKind,
    contactWords,
    groupings,
    groupingWords,
    routeSchema,
    routeSentence,
    namesIn,
    type Route,
    type RoutingChoices,
    type Target
  } from '$lib/core/notify/route';
  import { problemsOf } from '$lib/core/forms/problems';
  import { untrack } from 'svelte';
  import LengthPart from '../forms/LengthPart.svelte';
  import ManyPart from '../forms/ManyPart.svelte';

  interface Props {
    route: Route;
    choices: RoutingChoices;
    /** Takes whatever no other route takes, so it has no condition. */
    isLast: boolean;
    /** Whether there is something to compare it with. */
    isNew: boolean;
    /** What went wrong when it was saved. */
    problem: string;
    busy: boolean;
    onSave: (route: Route) => void;
    onCancel: () => void;
  }
  let { route: initial, choices, isLast, isNew, problem, busy, onSave, onCancel }: Props = $props();
  let route = $state(untrack(() => structuredClone<Route>($state.snapshot(initial))));

  const names = $derived(namesIn(choices));
  const zones = $derived([...new Set([route.zone, 'UTC', ...Intl.supportedValuesOf('timeZone')])]);
  const targets = $derived([
    ...choices.rotas.map(({ id, name }) => ({ value: `rota:${id}`, text: name, group: 'Whoever has the watch' })),
    ...choices.people.map(({ id, displayName }) => ({ value: `person:${id}`, text: displayName, group: 'People' })),
    ...choices.channels
      .filter(({ personId }) => personId === null)
      .map(({ id, name, confirmed }) => ({
        value: `channel:${id}`,
        text: confirmed ? name : `${name} (not confirmed)`,
        group: 'Channels'
      }))
  ]);
  const keyOf = (target: Target): string =>
    target.kind === 'rota'
      ? `rota:${target.rotaId}`
      : target.kind === 'person'
        ? `person:${target.personId}`
        : `channel:${target.channelId}`;
  const byOf = (notify: readonly Target[]): ContactKind[] => {
    const used = notify.flatMap((target) => (target.kind === 'channel' ? [] : target.by));
    return used.length === 0 ? [...contactKinds] : contactKinds.filter((kind) => used.includes(kind));
  };
  function targetOf(key: string, by: ContactKind[]): Target {
    const [kind, id] = key.split(':');
    if (kind === 'rota') return { kind, rotaId: Number(id), by };
    return kind === 'person' ? { kind, personId: Number(id), by } : { kind: 'channel', channelId: Number(id) };
  }
  function notify(position: number, keys: readonly string[], by: ContactKind[]): void {
    const step = route.steps[position];
    if (step) step.notify = keys.map((key) => targetOf(key, by));
  }
  function addStep(): void {
    const last = route.steps.at(-1);
    if (last) route.steps.push({ after: last.after + 900_000, notify: [] });
  }
  const isDigest = $derived(route.digestAt !== null);
  function chooseDigest(is: boolean): void {
    route.digestAt = is ? '08:00' : null;
    if (!is) return;
    route.steps = route.steps.slice(0, 1);
    route.repeatEvery = null;
  }
  const hours = $derived(route.when.times?.hours);
  const setTimes = (times: Times | null) => (route.when.times = times);
  const weekdayTexts = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
  let label = $state(untrack(() => initial.when.labels[0]?.label ?? ''));
  let labelValues = $state(untrack(() => (initial.when.labels[0]?.is ?? []).join(', ')));
  function setLabel(): void {
    const is = labelValues
      .split(',')
      .map((value) => value.trim())
      .filter((value) => value !== '');
    const others = route.when.labels.slice(1);
    route.when.labels = label.trim() === '' || is.length === 0 ? others : [{ label: label.trim(), is }, ...others];
  }
  let hasLabel = $state(untrack(() => initial.when.labels.length > 0));
  const read = $derived(routeSchema.safeParse($state.snapshot(route)));
  const wrong = $derived(read.success ? '' : (problemsOf(read.error)[0]?.message ?? ''));
  const before = $derived(routeSentence(initial, names));
  const after = $derived(read.success ? routeSentence(read.data, names) : '');
  let isAsked = $state(false);
  function save(): void {
    isAsked = true;
    if (read.success) onSave(read.data);
  }
</script>

<form
  class="flex flex-col gap-2"
  aria-label="The route"
  onsubmit={(event) => {
    event.preventDefault();
    save();
  }}
>
  <fieldset disabled={busy} class="sentence text-[15px]!">
    <p>
      <input class="part" aria-label="Name" placeholder="name of the route" maxlength="80" bind:value={route.name} />:
      {#if isLast}whatever no route above takes{:else}an incident of
        <ManyPart
          label="Severities"
          options={severities.toReversed().map((value) => ({ value, text: value }))}
          chosen={route.when.severities}
          onChange={(chosen: string[]) => (route.when.severities = chosen as Severity[])}
          none="any severity"
        />
        on
        <ManyPart
          label="Services"
          options={choices.services.map(({ key, title }) => ({ value: key, text: title }))}
          chosen={route.when.services}
          onChange={(chosen: string[]) => (route.when.services = chosen)}
          none="any service"
        />
        of
        <ManyPart
          label="Accounts"
          options={choices.accounts.map((value) => ({ value, text: value }))}
          chosen={route.when.accounts}
          onChange={(chosen: string[]) => (route.when.accounts = chosen)}
          none="any account"
        />{#if choices.groups.length > 0}, in
          <ManyPart
            label="Groups"
            options={choices.groups.map(({ id, name }) => ({ value: String(id), text: name }))}
            chosen={route.when.groupIds.map(String)}
            onChange={(chosen: string[]) => (route.when.groupIds = chosen.map(Number))}
            none="any group or none"
          />{/if}{#if hasLabel}, with label
          <input class="part" aria-label="Label" placeholder="team" bind:value={label} oninput={setLabel} /> is
          <input
            class="part"
            aria-label="Values of the label"
            placeholder="fleet, gates"
            bind:value={labelValues}
            oninput={setLabel}
          />{/if}, raised
        <select
          class="part"
          aria-label="When"
          value={route.when.times === null ? 'any' : 'hours'}
          onchange={(event) =>
            setTimes(event.currentTarget.value === 'any' ? null : { hours: { from: '20:00', to: '08:00' } })}
        >
          <option value="any">at any time</option>
          <option value="hours">at certain hours</option>
        </select>
        {#if route.when.times !== null && hours}
          from <input class="part" type="time" aria-label="From" required bind:value={hours.from} /> to
          <input class="part" type="time" aria-label="To" required bind:value={hours.to} /> on
          <ManyPart
            label="Weekdays"
            options={weekdayTexts.map((text, index) => ({ value: String(index + 1), text }))}
            chosen={(route.when.times.weekdays ?? []).map(String)}
            onChange={(chosen: string[]) =>
              setTimes({ hours, ...(chosen.length > 0 && { weekdays: chosen.map(Number) }) })}
            none="every day"
          />
          in
          <select class="part" aria-label="Time zone" bind:value={route.zone}>
            {#each zones as name (name)}<option>{name}</option>{/each}
          </select>
        {/if}{/if}
      {#each route.steps as step, position (position)}
        {#if position > 0}; if nobody has acknowledged after
          <LengthPart
            label="Time until step {position + 1}"
            value={step.after}
            minutes={[5, 10, 15, 20, 30, 45, 60, 90, 120]}
            onChange={(ms: number) => (step.after = ms)}
          />{:else}notifies{/if}
        <ManyPart
          label="Who is notified{position === 0 ? '' : ` in step ${position + 1}`}"
          options={targets}
          chosen={step.notify.map(keyOf)}
          onChange={(keys: string[]) => notify(position, keys, byOf(step.notify))}
          none="nobody yet"
          last="and"
        />
        {#if step.notify.some(({ kind }) => kind !== 'channel')}by
          <ManyPart
            label="By what{position === 0 ? '' : ` in step ${position + 1}`}"
            options={contactKinds.map((value) => ({ value, text: contactWords[value] }))}
            chosen={byOf(step.notify)}
            onChange={(by: string[]) => by.length > 0 && notify(position, step.notify.map(keyOf), by as ContactKind[])}
            none="nothing"
            last="and"
          />{/if}
        {#if position > 0}<button
            type="button"
            class="link text-[13px]"
            aria-label="Remove step {position + 1}"
            onclick={() => (route.steps = route.steps.filter((_, index) => index !== position))}>remove</button
          >{/if}
      {/each}
      <select
        class="part"
        aria-label="When messages are sent"
        value={isDigest ? 'digest' : 'live'}
        onchange={(event) => chooseDigest(event.currentTarget.value === 'digest')}
      >
        <option value="live">as it comes up</option>
        <option value="digest">in one message a day</option>
      </select>{#if route.digestAt !== null}
        at <input class="part" type="time" aria-label="Time of the digest" required bind:value={route.digestAt} /> in
        <select class="part" aria-label="Time zone of the digest" bind:value={route.zone}>
          {#each zones as name (name)}<option>{name}</option>{/each}
        </select>{:else}, repeated
        <select
          class="part"
          aria-label="Repeated"
          value={route.repeatEvery ?? 0}
          onchange={(event) => (route.repeatEvery = Number(event.currentTarget.value) || null)}
        >
          <option value={0}>never</option>
          {#each [5, 10, 15, 20, 30, 60, 120] as minutes (minutes)}<option value={minutes * 60_000}
              >every {minutes} min</option
            >{/each}
          {#if route.repeatEvery !== null && ![5, 10, 15, 20, 30, 60, 120].includes(route.repeatEvery / 60_000)}<option
              value={route.repeatEvery}>every {route.repeatEvery / 60_000} min</option
            >{/if}
        </select>
        until acknowledged{/if}. One message for
      <select class="part" aria-label="One message for" bind:value={route.group.by}>
        {#each groupings as by (by)}<option value={by}>{groupingWords[by]}</option>{/each}
      </select>{#if !isDigest}, sent
        <LengthPart
          label="Wait for others"
          value={route.group.wait}
          minutes={[0, 1, 2, 5, 10]}
          onChange={(ms: number) => (route.group.wait = ms)}
        />, at most every
        <LengthPart
          label="At most every"
          value={route.group.atMostEvery}
          minutes={[0, 1, 5, 10, 15, 30, 60]}
          zero="time something happens"
          onChange={(ms: number) => (route.group.atMostEvery = ms)}
        />{/if}.
      <select
        class="part"
        aria-label="When it clears"
        value={route.notifiesClear ? 'yes' : 'no'}
        onchange={(event) => (route.notifiesClear = event.currentTarget.value === 'yes')}
      >
        <option value="yes">They are notified as well when it clears.</option>
        <option value="no">Nobody is notified when it clears.</option>
      </select>
    </p>
  </fieldset>
  <div class="flex flex-wrap items-center gap-2 text-[13px]">
    {#if !isDigest}<button type="button" class="btn" onclick={addStep} disabled={route.steps.length >= 8}
        >Add a step</button
      >{/if}
    {#if !isLast && !hasLabel}<button type="button" class="btn" onclick={() => (hasLabel = true)}
        >Add a label condition</button
      >{/if}
    <span class="ml-auto"></span>
    <button type="button" class="btn" onclick={onCancel}>Cancel</button>
    <button class="btn btn-main" disabled={busy}>{isNew ? 'Add route' : 'Save route'}</button>
  </div>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>
  {:else if isAsked && wrong}<p class="fault text-[13px]" role="alert">{wrong}</p>{/if}
  {#if !isNew && after !== '' && after !== before}<p class="text-quiet text-[13px]">
      <b>Was:</b>
      {before}. It changes for the next message; open incidents stay with this route.
    </p>{/if}
</form>
