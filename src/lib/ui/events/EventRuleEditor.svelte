<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { severities } from '$lib/core/alarm';
  import { eventRuleSchema, type EventCondition, type EventNames, type EventRule } from '$lib/core/events';
  import { problemsOf } from '$lib/core/forms/problems';
  import { durationFromText, textFromDuration, type Duration } from '$lib/core/time';
  import LengthPart from '../forms/LengthPart.svelte';
  import AskedButton from '../forms/AskedButton.svelte';
  import ChangedElsewhere from '../forms/ChangedElsewhere.svelte';
  import { Elsewhere } from '../forms/elsewhere.svelte';
  import { Acting } from '../people/acting.svelte';
  import Outcome from '../people/Outcome.svelte';
  import { useReader } from '../time/reader';
  import EventParts from './EventParts.svelte';
  import TriedRule from './TriedRule.svelte';

  interface Props {
    /** What is stored; null for a new one. */
    stored: {
      readonly id: number;
      readonly rule: EventRule;
      readonly version: number;
      readonly changedBy: string;
    } | null;
    rule: EventRule;
    names: EventNames;
    routes: readonly { readonly id: number; readonly name: string }[];
  }
  let { stored, rule: given, names, routes }: Props = $props();
  const { mayEdit } = useReader();
  const acting = new Acting();
  let rule = $state(untrack(() => structuredClone(given)));
  let version = $state(untrack(() => stored?.version ?? 0));
  const labelText = (all: EventRule['labels']): string =>
    Object.entries(all)
      .map(([name, value]) => `${name}=${value}`)
      .join(', ');
  let labels = $state(untrack(() => labelText(given.labels)));
  const elsewhere = new Elsewhere<EventRule>({
    stored: () => stored?.rule ?? given,
    mine: () => rule,
    take: (theirs) => {
      rule = structuredClone($state.snapshot<EventRule>(theirs));
      labels = labelText(rule.labels);
      version = stored?.version ?? 0;
    }
  });
  const anything: EventCondition = { types: [], sources: [], resources: [], attributes: [] };
  const usualLength = 'PT30M';
  let problem = $state('');

  function clearBy(by: string): void {
    if (by === 'event') rule.clears = { by, when: { ...anything } };
    else if (by === 'time') rule.clears = { by, after: usualLength };
    else rule.clears = { by: 'hand' };
  }
  function readLabels(text: string): void {
    labels = text;
    rule.labels = Object.fromEntries(
      text.split(',').flatMap((pair) => {
        const [name = '', ...value] = pair.split('=');
        return name.trim() === '' ? [] : [[name.trim(), value.join('=').trim()]];
      })
    );
  }
  async function save(): Promise<void> {
    const read = eventRuleSchema.safeParse($state.snapshot(rule));
    problem = read.success ? '' : (problemsOf(read.error)[0]?.message ?? '');
    if (!read.success) return;
    if (stored === null) {
      const made = await acting.call<{ id: number }>('POST', '/event-rules', { body: read.data });
      if (made !== null) await goto(`/event-rules/${made.answer.id}`);
      return;
    }
    const saved = await acting.call<{ version: number }>(
      'PUT',
      `/event-rules/${stored.id}`,
      { body: { rule: read.data, version } },
      'The rule is saved.'
    );
    if (saved !== null) version = saved.answer.version;
  }
  async function remove(): Promise<void> {
    if (stored === null) return;
    if ((await acting.call('DELETE', `/event-rules/${stored.id}`)) !== null) await goto('/events');
  }
</script>

<Outcome {acting} />
{#if stored !== null && elsewhere.theirs !== null && mayEdit}<ChangedElsewhere
    what="this rule"
    by={stored.changedBy}
    onTheirs={() => elsewhere.takeTheirs()}
    onMine={() => {
      elsewhere.keepMine();
      version = stored.version;
    }}
  />{/if}
<div class="grid grid-cols-5 items-start gap-2.5 max-lg:grid-cols-1">
  <form
    class="panel col-span-3 flex flex-col gap-3 text-[13px] max-lg:col-span-1"
    aria-label="Event rule"
    onsubmit={(event) => {
      event.preventDefault();
      void save();
    }}
  >
    <label
      >Name <input
        class="field"
        maxlength="120"
        autocomplete="off"
        placeholder="Replication stalled"
        disabled={!mayEdit}
        bind:value={rule.name}
      /></label
    >
    <fieldset class="sentence text-[15px]!" disabled={!mayEdit}>
      <legend class="sr-only">What raises it, and what clears it</legend>
      <p>
        When an event of
        <EventParts
          what="raise"
          condition={rule.when}
          {names}
          disabled={!mayEdit}
          onChange={(when: EventCondition) => (rule.when = when)}
        />
        arrives, raise
        <select class="part" aria-label="Severity" bind:value={rule.severity}
          >{#each severities as severity (severity)}<option value={severity}>{severity}</option>{/each}</select
        >.
      </p>
      <p class="mt-2">
        It is clear
        <select
          class="part"
          aria-label="What clears it"
          value={rule.clears.by}
          onchange={(event) => clearBy(event.currentTarget.value)}
        >
          <option value="event">by another event about the same</option><option value="time"
            >some time after the last event</option
          ><option value="hand">when somebody closes it</option>
        </select>{#if rule.clears.by === 'time'}
          , after
          <LengthPart
            label="How long after the last event"
            value={durationFromText(rule.clears.after)}
            minutes={[5, 10, 15, 30, 60, 120, 360, 720, 1440]}
            disabled={!mayEdit}
            onChange={(ms) => (rule.clears = { by: 'time', after: textFromDuration(ms as Duration) })}
          />{:else if rule.clears.by === 'event'}
          : one of
          <EventParts
            what="clear"
            condition={rule.clears.when}
            {names}
            disabled={!mayEdit}
            onChange={(when: EventCondition) => (rule.clears = { by: 'event', when })}
          />{/if}.
      </p>
      <p class="mt-2">
        Who is notified:
        <select
          class="part"
          aria-label="Route"
          value={rule.route === null ? '' : String(rule.route)}
          onchange={(event) =>
            (rule.route = event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
        >
          <option value="">The list of routes decides</option>
          {#each routes as { id, name } (id)}<option value={String(id)}>Always the route {name}</option>{/each}
        </select>
      </p>
    </fieldset>
    <label
      >Labels <input
        class="field"
        autocomplete="off"
        placeholder="team=data, tier=1"
        disabled={!mayEdit}
        value={labels}
        oninput={(event) => readLabels(event.currentTarget.value)}
      /></label
    >
    <label
      >Runbook <input
        class="field"
        type="url"
        placeholder="https://"
        disabled={!mayEdit}
        bind:value={rule.runbook}
      /></label
    >
    <label
      >What whoever is woken should know <textarea class="field" rows="3" disabled={!mayEdit} bind:value={rule.about}
      ></textarea></label
    >
    <label class="flex items-center gap-2"
      ><input type="checkbox" disabled={!mayEdit} bind:checked={rule.enabled} /> It is on</label
    >
    {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
    {#if mayEdit}
      <div class="flex flex-wrap items-center gap-2">
        <button class="btn btn-main" disabled={acting.busy}>{stored === null ? 'Add the rule' : 'Save'}</button>
        {#if stored !== null}
          <AskedButton
            label="Remove"
            question="Remove it? What it has raised ends."
            disabled={acting.busy}
            onConfirm={() => void remove()}
          />
        {/if}
      </div>
    {/if}
  </form>
  <div class="col-span-2 max-lg:col-span-1"><TriedRule {rule} /></div>
</div>
