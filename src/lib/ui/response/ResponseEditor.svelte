<script lang="ts">
  import { untrack } from 'svelte';
  import {
    actionText,
    mayAtOnce,
    responseSchema,
    timesText,
    usualOneIn,
    watchedMinutes,
    type Action,
    type ActionKind,
    type AutoResponse
  } from '$lib/core/response';
  import { countOf } from '$lib/core/words/count';
  import DefinitionForm from '../forms/DefinitionForm.svelte';
  import ManyPart from '../forms/ManyPart.svelte';
  import SeverityPart from '../forms/SeverityPart.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    /** What is stored; null for a new one. */
    stored: {
      readonly id: number;
      readonly response: AutoResponse;
      readonly version: number;
      readonly changedBy: string;
    } | null;
    response: AutoResponse;
    alarms: readonly { readonly id: number; readonly name: string }[];
    groups: readonly { readonly id: number; readonly name: string; readonly members: number }[];
    webhooks: readonly { readonly id: number; readonly name: string }[];
  }
  let { stored, response: given, alarms, groups, webhooks }: Props = $props();
  const { mayEdit, zone } = useReader();
  let response = $state(untrack(() => structuredClone(given)));
  const weekdays = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
  const kindWords: Readonly<Record<ActionKind, string>> = {
    ...{ restart: 'restart it', stop: 'stop it', start: 'start it', size: 'change its size', count: 'set its count' },
    ...{ more: 'change its count', webhook: 'call a webhook of ours' }
  };
  const kinds = $derived(
    (Object.keys(kindWords) as ActionKind[]).filter((kind) => kind !== 'webhook' || webhooks.length > 0)
  );
  const emptyAction = (kind: ActionKind): Action => {
    switch (kind) {
      case 'size':
        return { kind, size: 'large' };
      case 'count':
        return { kind, to: 2 };
      case 'more':
        return { kind, by: 1, limit: 8 };
      case 'webhook':
        return { kind, channelId: webhooks[0]?.id ?? 0 };
      case 'restart':
      case 'stop':
      case 'start':
        return { kind };
      default:
        throw new RangeError(`emptyAction: no action "${String(kind satisfies never)}"`);
    }
  };
  const group = $derived(groups.find(({ id }) => id === response.limits.group?.groupId));
  const withChosen = (offered: readonly number[], chosen: number): number[] =>
    [...new Set([...offered, chosen])].sort((one, other) => one - other);
</script>

<DefinitionForm
  stored={stored && { ...stored, value: stored.response }}
  bind:value={response}
  {given}
  schema={responseSchema}
  path="/responses"
  field="response"
  what="response"
  label="Response"
  example="Restart what serves the ticket site"
  back="/responses"
  made={(id) => `/responses/${id}`}
  saved="The response is saved, and acts in your right."
  question="Remove it? What it did stays listed."
  class="mb-2.5"
>
  <fieldset class="sentence text-[15px]!" disabled={!mayEdit}>
    <legend class="sr-only">When something is done, what, and within which limits</legend>
    <p>
      When
      <select class="part" aria-label="Alarm" bind:value={response.alarmId}>
        <option value={0} disabled hidden>an alarm</option>
        {#each alarms as { id, name } (id)}<option value={id}>{name}</option>{/each}
      </select>
      has been raised
      <SeverityPart label="From severity" bind:severity={response.from} />{response.from === 'critical'
        ? ''
        : ' or graver'} for
      <input
        class="part w-[64px]"
        aria-label="Minutes raised"
        type="number"
        min="0"
        max="1440"
        bind:value={response.heldMinutes}
      />
      min and nobody has acknowledged it,
      <select
        class="part"
        aria-label="What to do"
        value={response.action.kind}
        onchange={(event) =>
          (response.action = emptyAction(kinds.find((one) => one === event.currentTarget.value) ?? 'restart'))}
        >{#each kinds as kind (kind)}<option value={kind}>{kindWords[kind]}</option>{/each}</select
      >{#if response.action.kind === 'size'}
        to <input class="part w-[110px]" aria-label="Size" maxlength="60" bind:value={response.action.size} />
      {:else if response.action.kind === 'count'}
        to <input
          class="part w-[60px]"
          aria-label="Count"
          type="number"
          min="0"
          max="10000"
          bind:value={response.action.to}
        />
      {:else if response.action.kind === 'more'}
        by
        <input
          class="part w-[60px]"
          aria-label="By"
          type="number"
          min="-100"
          max="100"
          bind:value={response.action.by}
        />, never beyond
        <input
          class="part w-[60px]"
          aria-label="Limit of the count"
          type="number"
          min="0"
          max="10000"
          bind:value={response.action.limit}
        />
      {:else if response.action.kind === 'webhook'}
        <select class="part" aria-label="Webhook" bind:value={response.action.channelId}
          >{#each webhooks as { id, name } (id)}<option value={id}>{name}</option>{/each}</select
        >
      {/if}.
    </p>
    <p class="mt-2">
      On one resource at most
      <select class="part" aria-label="How often in an hour" bind:value={response.limits.mostPerHour}
        >{#each withChosen([1, 2, 3, 5, 10], response.limits.mostPerHour) as times (times)}<option value={times}
            >{timesText(times)}</option
          >{/each}</select
      >
      an hour, and not again within
      <select class="part" aria-label="Rest" bind:value={response.limits.restMinutes}
        >{#each withChosen([5, 10, 15, 30, 60, 120, 240, 720, 1440], response.limits.restMinutes) as minutes (minutes)}<option
            value={minutes}>{minutes} min</option
          >{/each}</select
      >. It stops after
      <select class="part" aria-label="Failures" bind:value={response.limits.failuresToStop}
        >{#each withChosen([1, 2, 3, 5], response.limits.failuresToStop) as failures (failures)}<option value={failures}
            >{countOf(failures, 'failure')}</option
          >{/each}</select
      >{response.limits.failuresToStop === 1 ? '' : ' on end'}; what is still raised {watchedMinutes} min later has not helped,
      and is one as well.
    </p>
    <p class="mt-2">
      <label
        ><input
          type="checkbox"
          checked={response.limits.group !== null}
          disabled={groups.length === 0}
          onchange={(event) =>
            (response.limits.group = event.currentTarget.checked
              ? { groupId: groups[0]?.id ?? 0, oneIn: usualOneIn }
              : null)}
        />
        Never more than one in so many of a group at a time</label
      >{#if response.limits.group !== null}: one in
        <select class="part" aria-label="One in" bind:value={response.limits.group.oneIn}
          >{#each withChosen([1, 2, 3, 4, 5, 10, 20], response.limits.group.oneIn) as one (one)}<option value={one}
              >{one}</option
            >{/each}</select
        >
        of
        <select class="part" aria-label="Group" bind:value={response.limits.group.groupId}
          >{#each groups as { id, name } (id)}<option value={id}>{name}</option>{/each}</select
        >{#if group}{@const may = mayAtOnce(group.members, response.limits.group.oneIn)}<span
            class={['ml-1', may === 0 ? 'fault' : 'text-quiet']}
            >({may === 0
              ? `of ${group.members}, that is less than one: it would never act`
              : `${may} of ${group.members} now`})</span
          >{/if}{/if}
    </p>
    <p class="mt-2">
      <label
        ><input
          type="checkbox"
          checked={response.limits.notIn !== null}
          onchange={(event) =>
            (response.limits.notIn = event.currentTarget.checked
              ? { hours: { weekdays: [1, 2, 3, 4, 5], from: '07:00', to: '19:00' }, zone }
              : null)}
        />
        Not at some hours</label
      >{#if response.limits.notIn !== null}{@const { hours } = response.limits.notIn}:
        <ManyPart
          label="Weekdays"
          options={weekdays.map((text, index) => ({ value: String(index + 1), text }))}
          chosen={hours.weekdays.map(String)}
          onChange={(chosen: string[]) => (hours.weekdays = chosen.map(Number))}
          none="no day"
        />
        from <input class="part" type="time" aria-label="From" required bind:value={hours.from} /> to
        <input class="part" type="time" aria-label="To" required bind:value={hours.to} />
        <span class="text-quiet">{response.limits.notIn.zone}</span>{/if}
    </p>
    <p class="mt-2">
      <label
        ><input type="checkbox" bind:checked={response.limits.duringMaintenance} /> Also during planned maintenance</label
      >
    </p>
  </fieldset>
  <p class="text-quiet">
    It would {actionText(response.action, (id) => webhooks.find((one) => one.id === id)?.name ?? `channel ${id}`)}, in
    the right of whoever saved it last: without that right, it stops.
  </p>
</DefinitionForm>
