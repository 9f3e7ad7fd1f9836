<script lang="ts">
  import { untrack } from 'svelte';
  import { eventRuleSchema, type EventCondition, type EventNames, type EventRule } from '$lib/core/events';
  import { durationFromText, textFromDuration, type Duration } from '$lib/core/time';
  import LengthPart from '../forms/LengthPart.svelte';
  import DefinitionForm from '../forms/DefinitionForm.svelte';
  import RoutePart from '../forms/RoutePart.svelte';
  import SeverityPart from '../forms/SeverityPart.svelte';
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
  let rule = $state(untrack(() => structuredClone(given)));
  const labelText = (all: EventRule['labels']): string =>
    Object.entries(all)
      .map(([name, value]) => `${name}=${value}`)
      .join(', ');
  let labels = $state(untrack(() => labelText(given.labels)));
  const anything: EventCondition = { types: [], sources: [], resources: [], attributes: [] };
  const usualLength = 'PT30M';

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
</script>

<div class="grid grid-cols-5 items-start gap-2.5 max-lg:grid-cols-1">
  <div class="col-span-3 max-lg:col-span-1">
    <DefinitionForm
      stored={stored && { ...stored, value: stored.rule }}
      bind:value={rule}
      {given}
      schema={eventRuleSchema}
      path="/event-rules"
      field="rule"
      what="rule"
      label="Event rule"
      example="Replication stalled"
      back="/events"
      made={(id) => `/event-rules/${id}`}
      saved="The rule is saved."
      question="Remove it? What it has raised ends."
      onTake={(taken: EventRule) => (labels = labelText(taken.labels))}
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
          <SeverityPart label="Severity" bind:severity={rule.severity} />.
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
          <RoutePart bind:route={rule.route} {routes} byList="The list of routes decides" prefix="Always the route " />
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
    </DefinitionForm>
  </div>
  <div class="col-span-2 max-lg:col-span-1"><TriedRule {rule} /></div>
</div>
