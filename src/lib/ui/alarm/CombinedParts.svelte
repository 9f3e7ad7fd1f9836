<script lang="ts">
  import type { AlarmDefinition, Combines, Condition } from '$lib/core/alarm';
  import { watchedUnit } from '$lib/core/alarm';
  import { plainPick, plainSignal, signalSentence, type SignalPick } from '$lib/core/signal';
  import ConditionClause from './ConditionClause.svelte';
  import type { PickableMetric, PickableResource } from './pickable';
  import SignalPickClause from './SignalPickClause.svelte';

  type Part = Combines['parts'][number];
  interface Props {
    /** Given anew when it is changed. */
    combines: Combines;
    alarms: readonly { readonly id: number; readonly definition: AlarmDefinition }[];
    /** The alarm itself, which is no part of its own; null for a new one. */
    id: number | null;
    metrics: readonly PickableMetric[];
    accounts: readonly string[];
    resources: readonly PickableResource[];
    disabled: boolean;
  }
  let { combines = $bindable(), alarms, id, metrics, accounts, resources, disabled }: Props = $props();
  /** Beyond this many a part must go before another comes. */
  const mostParts = 10;
  const metricOf = (name: string) => metrics.find((metric) => metric.name === name);
  const joins: readonly (readonly string[])[] = [[], ['resource'], ['account'], ['account', 'resource'], ['region']];
  const joinText = (by: readonly string[]) =>
    by.length === 0 ? 'wherever each of them holds' : `on the same ${by.join(' and ')}`;
  const joinsOffered = $derived(joins.some((by) => by.join() === combines.by.join()) ? joins : [...joins, combines.by]);
  const offered = $derived(
    alarms.filter(
      (alarm) => alarm.id !== id && combines.parts.every((part) => !('alarm' in part) || part.alarm !== alarm.id)
    )
  );

  function setPart(position: number, part: Part): void {
    combines = { ...combines, parts: combines.parts.map((one, index) => (index === position ? part : one)) };
  }

  function addCondition(): void {
    const metric = metrics.find(({ name }) => name === 'machine.processor.use') ?? metrics[0];
    if (metric === undefined) return;
    const taken = new Set(combines.parts.flatMap((part) => ('name' in part ? [part.name] : [])));
    let name = metric.title;
    for (let count = 2; taken.has(name); count++) name = `${metric.title} ${count}`;
    const signal = plainSignal({ metric: metric.name, where: [], statistic: 'avg', step: combines.step });
    combines = {
      ...combines,
      parts: [...combines.parts, { name, signal, condition: { kind: 'threshold', is: 'above', limit: 80 } }]
    };
  }
</script>

<fieldset {disabled} class="sentence mt-2" aria-label="Parts">
  <p>
    Its parts are joined
    <select
      class="part"
      aria-label="Joined"
      value={combines.by.join()}
      onchange={(event) =>
        (combines = { ...combines, by: event.currentTarget.value === '' ? [] : event.currentTarget.value.split(',') })}
      >{#each joinsOffered as by (by.join())}<option value={by.join()}>{joinText(by)}</option>{/each}</select
    >.
  </p>
  <ol class="mt-1 flex flex-col gap-1">
    {#each combines.parts as part, position (position)}
      <li class="border-line border-l-2 pl-2.5" data-part={position + 1}>
        {#if 'alarm' in part}
          <select
            class="part"
            aria-label="Alarm, part {position + 1}"
            value={part.alarm}
            onchange={(event) => setPart(position, { alarm: Number(event.currentTarget.value) })}
          >
            {#each alarms.filter((alarm) => alarm.id === part.alarm || offered.includes(alarm)) as { id: of, definition } (of)}<option
                value={of}>{definition.name}</option
              >{/each}
            {#if alarms.every((alarm) => alarm.id !== part.alarm)}<option value={part.alarm}>a removed alarm</option
              >{/if}
          </select>
          is raised
        {:else}
          {@const pick = plainPick(part.signal)}
          <input
            class="part"
            aria-label="Name, part {position + 1}"
            bind:value={() => part.name, (name: string) => setPart(position, { ...part, name })}
            size={Math.max(8, part.name.length)}
          />: the
          {#if pick}<SignalPickClause
              {pick}
              {metrics}
              {accounts}
              {resources}
              of="part {position + 1}"
              onChange={(to: SignalPick) => setPart(position, { ...part, signal: { ...part.signal, rows: [to] } })}
            />{:else}{signalSentence(part.signal, metricOf)}{/if}
          <ConditionClause
            condition={part.condition}
            unit={watchedUnit(part.signal, metricOf)}
            of="part {position + 1}"
            onChange={(condition: Condition) => setPart(position, { ...part, condition })}
          />
        {/if}
        {#if !disabled && combines.parts.length > 2}<button
            type="button"
            class="link text-[13px]"
            aria-label="Remove part {position + 1}"
            onclick={() => (combines = { ...combines, parts: combines.parts.filter((_, index) => index !== position) })}
            >remove</button
          >{/if}
      </li>
    {/each}
  </ol>
  {#if !disabled && combines.parts.length < mostParts}
    <p class="mt-1">
      {#if offered.length > 0}<select
          class="field w-auto!"
          aria-label="Add an alarm"
          value=""
          onchange={(event) => {
            const added = Number(event.currentTarget.value);
            event.currentTarget.value = '';
            combines = { ...combines, parts: [...combines.parts, { alarm: added }] };
          }}
          ><option value="" disabled hidden>+ an alarm</option>{#each offered as { id: of, definition } (of)}<option
              value={of}>{definition.name}</option
            >{/each}</select
        >{/if}
      <button type="button" class="link text-[13px]" onclick={addCondition}>+ a condition on a signal</button>
    </p>
  {/if}
</fieldset>
