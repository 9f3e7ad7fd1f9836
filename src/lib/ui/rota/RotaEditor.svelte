<script lang="ts">
  import { problemsOf } from '$lib/core/forms/problems';
  import { rotaSchema, type Layer, type Rota } from '$lib/core/rota';
  import { dateAt, type Instant } from '$lib/core/time';
  import { untrack } from 'svelte';
  import { useReader } from '../time/reader';
  import ManyPart from '../forms/ManyPart.svelte';

  interface Props {
    rota: Rota;
    people: readonly { readonly id: number; readonly displayName: string }[];
    now: Instant;
    isNew: boolean;
    problem: string;
    busy: boolean;
    onSave: (rota: Rota) => void;
    onCancel: () => void;
    /** The rota as it would be, or null while it cannot be: what is drawn beside it. */
    onDraft: (rota: Rota | null) => void;
  }
  let { rota: initial, people, now, isNew, problem, busy, onSave, onCancel, onDraft }: Props = $props();
  const reader = useReader();
  let rota = $state(untrack(() => structuredClone<Rota>($state.snapshot(initial))));
  const zones = $derived([...new Set([rota.zone, 'UTC', ...Intl.supportedValuesOf('timeZone')])]);
  const read = $derived(rotaSchema.safeParse($state.snapshot(rota)));
  const wrong = $derived(read.success ? '' : (problemsOf(read.error)[0]?.message ?? ''));
  let isAsked = $state(false);
  $effect(() => onDraft(read.success ? read.data : null));
  const weekdays = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
  const lengths = [1, 2, 3, 7, 14, 28];
  const lengthText = (days: number) =>
    days % 7 === 0 ? (days === 7 ? '1 week' : `${days / 7} weeks`) : days === 1 ? '1 day' : `${days} days`;
  const reminders = [null, 900_000, 3_600_000, 14_400_000, 86_400_000];
  const reminderText = (ms: number | null) =>
    ms === null
      ? 'not reminded'
      : ms < 3_600_000
        ? 'reminded 15 min before'
        : ms === 86_400_000
          ? 'reminded 1 day before'
          : `reminded ${ms / 3_600_000} h before`;
  const addLayer = () =>
    rota.layers.push({
      ...{ name: '', people: [people[0]?.id ?? 0], days: 7, from: dateAt(now, rota.zone), until: null },
      ...{ at: '08:00', zone: null, hours: [] }
    });
  const always = (layer: Layer, is: boolean) =>
    (layer.hours = is ? [] : [{ weekdays: [1, 2, 3, 4, 5, 6, 7], from: '08:00', to: '20:00' }]);
  function save(): void {
    isAsked = true;
    if (read.success) onSave(read.data);
  }
</script>

<form
  class="flex flex-col gap-2"
  aria-label="The rota"
  onsubmit={(event) => {
    event.preventDefault();
    save();
  }}
>
  <fieldset disabled={busy} class="sentence text-[15px]!">
    <p>
      <input class="part" aria-label="Name of the rota" placeholder="name" maxlength="80" bind:value={rota.name} />, by
      the clocks of
      <select class="part" aria-label="Time zone" bind:value={rota.zone}>
        {#each zones as name (name)}<option>{name}</option>{/each}
      </select>{#if reader.teams.length > 0}, of
        <select
          class="part"
          aria-label="Team"
          value={rota.teamId ?? 0}
          onchange={(event) => (rota.teamId = Number(event.currentTarget.value) || null)}
        >
          <option value={0}>no team</option>
          {#each reader.teams as { id, name } (id)}<option value={id}>{name}</option>{/each}
        </select>{/if}; whoever has a shift is
      <select
        class="part"
        aria-label="Reminder"
        value={rota.remindBefore ?? 0}
        onchange={(event) => (rota.remindBefore = Number(event.currentTarget.value) || null)}
      >
        {#each reminders as ms (ms)}<option value={ms ?? 0}>{reminderText(ms)}</option>{/each}
      </select>.
    </p>
    {#each rota.layers as layer, position (position)}
      {@const of = rota.layers.length > 1 ? ` of layer ${position + 1}` : ''}
      <p>
        {#if rota.layers.length > 1}<input
            class="part"
            aria-label="Name{of}"
            placeholder="layer {position + 1}"
            maxlength="60"
            bind:value={layer.name}
          />:
        {/if}Held by
        {#each layer.people, turn (turn)}
          <span class="whitespace-nowrap"
            ><select class="part" aria-label="Turn {turn + 1}{of}" bind:value={layer.people[turn]}>
              {#each people as { id, displayName } (id)}<option value={id}>{displayName}</option>{/each}
            </select>{#if layer.people.length > 1}<button
                type="button"
                class="text-quiet px-0.5"
                aria-label="Remove turn {turn + 1}{of}"
                onclick={() => layer.people.splice(turn, 1)}>×</button
              >{/if}</span
          >
        {/each}
        <button
          type="button"
          class="link text-[13px]"
          aria-label="Add a person{of}"
          onclick={() =>
            layer.people.push(people.find(({ id }) => !layer.people.includes(id))?.id ?? people[0]?.id ?? 0)}
          >add a person</button
        >{#if layer.people.length > 1}, in turn,
          <select class="part" aria-label="Length of a turn{of}" bind:value={layer.days}>
            {#each [...new Set([...lengths, layer.days])].sort((a, b) => a - b) as days (days)}<option value={days}
                >{lengthText(days)}</option
              >{/each}
          </select> each{/if}, from
        <input class="part" type="date" aria-label="First day{of}" required bind:value={layer.from} />, handed over at
        <input class="part" type="time" aria-label="Handover{of}" required bind:value={layer.at} />,
        <select
          class="part"
          aria-label="Hours{of}"
          value={layer.hours.length === 0 ? 'always' : 'hours'}
          onchange={(event) => always(layer, event.currentTarget.value === 'always')}
        >
          <option value="always">at all hours</option>
          <option value="hours">at certain hours</option>
        </select>{#each layer.hours as hours, line (line)}{line > 0 ? ' and ' : ': '}<ManyPart
            label="Weekdays{of}"
            options={weekdays.map((text, index) => ({ value: String(index + 1), text }))}
            chosen={hours.weekdays.map(String)}
            onChange={(chosen: string[]) => (hours.weekdays = chosen.map(Number))}
            none="no day"
            last="and"
          />
          from <input class="part" type="time" aria-label="From{of}" required bind:value={hours.from} /> to
          <input
            class="part"
            type="time"
            aria-label="To{of}"
            required
            bind:value={hours.to}
          />{#if layer.hours.length > 1}<button
              type="button"
              class="text-quiet px-0.5"
              aria-label="Remove these hours{of}"
              onclick={() => layer.hours.splice(line, 1)}>×</button
            >{/if}{/each}{#if layer.hours.length > 0}
          <button
            type="button"
            class="link text-[13px]"
            onclick={() => layer.hours.push({ weekdays: [6, 7], from: '08:00', to: '20:00' })}>more hours</button
          >{/if}.{#if rota.layers.length > 1}
          <button
            type="button"
            class="link text-[13px]"
            aria-label="Remove layer {position + 1}"
            onclick={() => rota.layers.splice(position, 1)}>remove layer</button
          >{/if}
      </p>
    {/each}
    {#if rota.layers.length > 1}<p class="text-quiet text-[13px]">
        Where several layers have the watch, the last one has it.
      </p>{/if}
  </fieldset>
  <div class="flex flex-wrap items-center gap-2 text-[13px]">
    <button type="button" class="btn" disabled={rota.layers.length >= 10} onclick={addLayer}>Add a layer</button>
    <span class="ml-auto"></span>
    <button type="button" class="btn" onclick={onCancel}>Cancel</button>
    <button class="btn btn-main" disabled={busy}>{isNew ? 'Add rota' : 'Save rota'}</button>
  </div>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>
  {:else if isAsked && wrong}<p class="fault text-[13px]" role="alert">{wrong}</p>{/if}
</form>
