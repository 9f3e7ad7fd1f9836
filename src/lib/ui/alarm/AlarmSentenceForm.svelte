<script lang="ts">
  import {
    severities,
    severityBalls,
    withClearing,
    type AlarmDefinition,
    type Condition,
    type Level,
    type Severity
  } from '$lib/core/alarm';
  import { plainPick, signalSubject, type SignalPick } from '$lib/core/signal';
  import { useReader } from '../time/reader';
  import ConditionClause from './ConditionClause.svelte';
  import SeverityHoist from './SeverityHoist.svelte';
  import SignalPickClause from './SignalPickClause.svelte';
  import type { PickableMetric, PickableResource } from './pickable';
  import WindowClause from './WindowClause.svelte';

  interface Props {
    /** The alarm, changed in place. */
    alarm: AlarmDefinition;
    metrics: readonly PickableMetric[];
    accounts: readonly string[];
    resources: readonly PickableResource[];
    disabled: boolean;
    /** UCUM code of the threshold. */
    unit: string;
    /** Where the signal is composed. */
    composing: string;
  }
  let { alarm = $bindable(), metrics, accounts, resources, disabled, unit, composing }: Props = $props();
  const { zone } = useReader();
  const step = $derived(alarm.signal?.step ?? alarm.combines?.step ?? 'PT1M');
  /** The only pick of a signal that this sentence has parts for; null of one that is composed on the bench. */
  const single = $derived(alarm.signal ? plainPick(alarm.signal) : null);
  const pick = $derived(single ?? { name: 'a', metric: '', where: [], statistic: 'avg' as const });
  const subject = $derived(
    alarm.signal ? signalSubject(alarm.signal, (name) => metrics.find((one) => one.name === name)) : ''
  );

  function changePick(to: SignalPick): void {
    if (alarm.signal) alarm.signal.rows = [to];
  }

  function chooseStep(step: string): void {
    if (alarm.signal) alarm.signal.step = step;
    else if (alarm.combines) alarm.combines.step = step;
  }

  function changeLevel(position: number, level: Level): void {
    alarm.rule.levels = alarm.rule.levels.map((one, index) => (index === position ? level : one));
  }

  /** Levels go from the mildest to the gravest; one whose severity is taken by another changes places with it. */
  function chooseSeverity(position: number, severity: Severity): void {
    const { levels } = alarm.rule;
    const own = levels[position]?.severity;
    alarm.rule.levels = levels
      .map((level, index) => {
        if (index === position) return { ...level, severity };
        return level.severity === severity && own ? { ...level, severity: own } : level;
      })
      .toSorted((one, other) => severityBalls(one.severity) - severityBalls(other.severity));
  }

  /** One more severity, the next graver that is free, with the condition of the gravest as it is. */
  function addLevel(): void {
    const { levels } = alarm.rule;
    const free = severities.filter((severity) => levels.every((level) => level.severity !== severity));
    const gravest = levels.at(-1);
    if (gravest === undefined) return;
    const severity = free.find((one) => severityBalls(one) > severityBalls(gravest.severity)) ?? free.at(-1);
    if (severity === undefined) return;
    alarm.rule.levels = [...levels, { severity, condition: $state.snapshot(gravest.condition) }].toSorted(
      (one, other) => severityBalls(one.severity) - severityBalls(other.severity)
    );
  }

  /** The levels that have one threshold, which can clear at another. */
  const oneSided = $derived(
    alarm.rule.levels.filter(({ condition }) => condition.kind === 'threshold' && 'limit' in condition)
  );
  const hasClear = $derived(oneSided.some(({ condition }) => 'clear' in condition && condition.clear !== undefined));

  const hasExceptions = $derived(
    oneSided.some(({ condition }) => 'exceptions' in condition && (condition.exceptions ?? []).length > 0)
  );
  /** Zones that the browser knows; whatever is saved stands among them. */
  const zones = $derived([...new Set([alarm.rule.zone, 'UTC', ...Intl.supportedValuesOf('timeZone')])]);

  /** Gives all thresholds other ones at night, in the zone of whoever says so. */
  function addException(): void {
    if (!hasExceptions) alarm.rule.zone = zone;
    alarm.rule.levels = alarm.rule.levels.map((level): Level => {
      const { condition } = level;
      if (condition.kind !== 'threshold' || !('limit' in condition)) return level;
      const night = { times: { hours: { from: '22:00', to: '06:00' } }, limit: condition.limit };
      return { ...level, condition: { ...condition, exceptions: [...(condition.exceptions ?? []), night] } };
    });
  }

  /** Gives all thresholds another one to clear at, a tenth back, or takes it away. */
  function toggleClear(): void {
    const remove = hasClear;
    alarm.rule.levels = alarm.rule.levels.map((level): Level => {
      const { condition } = level;
      if (condition.kind !== 'threshold' || !('limit' in condition)) return level;
      const { clear: _, ...plain } = condition;
      const back = (Math.abs(condition.limit) / 10) * (condition.is === 'above' ? -1 : 1);
      const clear = Number((condition.limit + back).toPrecision(6));
      return { ...level, condition: remove ? plain : { ...plain, clear } };
    });
  }
</script>

<fieldset {disabled} class="sentence">
  {#snippet severityChoice(position: number, severity: Severity)}
    <select
      class="part"
      aria-label={position === 0 ? 'Severity' : `Severity ${position + 1}`}
      value={severity}
      onchange={(event) => chooseSeverity(position, event.currentTarget.value as Severity)}
      >{#each severities as name (name)}<option>{name}</option>{/each}</select
    >
  {/snippet}
  Raise <SeverityHoist severity={alarm.rule.levels[0]?.severity ?? null} />
  {@render severityChoice(0, alarm.rule.levels[0]?.severity ?? 'major')}
  {#if single}
    when the <SignalPickClause {pick} {metrics} {accounts} {resources} onChange={changePick} />
  {:else if alarm.combines}
    when
  {:else}
    when <a class="part" href={composing} title="Change it on the bench">{subject}</a>
  {/if}
  {#each alarm.rule.levels as { severity, condition }, position (position)}
    {#if position > 0}
      and <SeverityHoist {severity} />
      {@render severityChoice(position, severity)}
      when it
    {/if}
    <ConditionClause
      {condition}
      {unit}
      of={position === 0 ? '' : severity}
      parts={alarm.combines?.parts.length}
      onChange={(changed: Condition) => changeLevel(position, { severity, condition: changed })}
    />
    {#if position > 0 && !disabled}<button
        type="button"
        class="link text-[13px]"
        aria-label="Remove {severity}"
        onclick={() => (alarm.rule.levels = alarm.rule.levels.filter((_, index) => index !== position))}>remove</button
      >{/if}
  {/each}
  <WindowClause bind:rule={alarm.rule} {step} onStep={chooseStep} />
  {#if hasExceptions}
    Hours are those of
    <select class="part" aria-label="Time zone" bind:value={alarm.rule.zone}
      >{#each zones as name (name)}<option>{name}</option>{/each}</select
    >.
  {/if}
  {#if !disabled && alarm.rule.levels.length < severities.length}
    <button type="button" class="link text-[13px]" onclick={addLevel}>+ another severity</button>
  {/if}
  {#if !disabled && oneSided.length > 0}
    <button type="button" class="link text-[13px]" onclick={toggleClear}
      >{hasClear ? '− clearing threshold' : '+ clearing threshold'}</button
    >
  {/if}
  {#if !disabled && oneSided.length > 0}
    <button type="button" class="link text-[13px]" onclick={addException}>+ other hours or days</button>
  {/if}
  {#if !disabled}
    <button
      type="button"
      class="link text-[13px]"
      onclick={() => (alarm.rule = withClearing(alarm.rule, alarm.rule.clearing ? 0 : 5))}
      >{alarm.rule.clearing ? '− clearing time' : '+ clearing time'}</button
    >
  {/if}
</fieldset>
