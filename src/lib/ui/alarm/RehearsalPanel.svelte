<script lang="ts">
  import { countOf, formOf } from '$lib/core/words/count';
  import {
    comparedText,
    conditionIn,
    drawnLimits,
    stepOfAlarm,
    windowText,
    withDrawnLimit,
    type AlarmDefinition,
    type Level,
    type Severity
  } from '$lib/core/alarm';
  import { subjectOf } from '$lib/core/signal';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import { limitText } from '$lib/core/units';
  import TimeChart from '../chart/TimeChart.svelte';
  import Moment from '../time/Moment.svelte';
  import { historyDays, type AlarmHistory } from './alarm-history.svelte';
  import PartLanes from './PartLanes.svelte';
  import type { PartLane } from './part-history.svelte';
  import SeverityHoist from './SeverityHoist.svelte';

  interface Props {
    /** The alarm, changed in place when a proposal is used. */
    alarm: AlarmDefinition;
    history: AlarmHistory;
    /** Of a combined alarm: when each of its parts held. */
    lanes: readonly PartLane[];
    now: Instant;
    disabled: boolean;
  }
  let { alarm = $bindable(), history, lanes, now, disabled }: Props = $props();
  const mostShown = 12;
  const { picture, rehearsal, problem } = $derived(history);
  const periods = $derived(rehearsal?.periods ?? []);
  const limits = $derived(
    picture === null
      ? []
      : drawnLimits(alarm.rule).map(({ value, severity }) => ({
          value,
          severity,
          text: `${limitText(value, picture.unit)} ${severity}`
        }))
  );
  const raised = $derived(periods.map(({ from, to, severity }) => ({ from, to, severity })));
  const lengthOf = ({ from, to }: { from: Instant; to: Instant | null }) =>
    duration(Math.max(0, (to ?? rehearsal?.to ?? from) - from));
  const nameOf = (series: number) => subjectOf(rehearsal?.series[series]?.labels ?? {}, alarm.name);
  const peakText = ({ severity, peak }: { severity: Severity; peak: number | null }) => {
    const level = alarm.rule.levels.find((one) => one.severity === severity);
    return level ? comparedText(level.condition, peak ?? NaN, picture?.unit ?? '1') : '';
  };
  const useTexts = { limit: 'Use this limit', window: 'Use this window', levels: 'Use these severities' } as const;
  /** Takes a limit along while its line is dragged. */
  function dragLimit(index: number, value: number, isDone: boolean): void {
    history.hurry();
    alarm.rule = withDrawnLimit(alarm.rule, index, value);
    if (isDone) history.release();
  }
  const missed = $derived(rehearsal?.figures.missed ?? []);
  const known = $derived(rehearsal?.figures.known ?? 0);
  const messagesByHour = $derived(rehearsal?.figures.messagesByHour ?? []);
  const bySeries = $derived(rehearsal?.figures.bySeries ?? []);
  const mostMissed = 5;
  const mostSeries = 6;
  const busiestHour = $derived(Math.max(1, ...messagesByHour));
  const days = (count: number) => (count === 1 ? 'the last day' : `${count} days`);
  const figures = $derived.by(() => {
    if (rehearsal === null) return [];
    const { count, longest, flapping, bySeries, messagesByHour, messagesAtNight } = rehearsal.figures;
    const messages = messagesByHour.reduce((sum, one) => sum + one, 0);
    return [
      [String(count), count === 1 ? 'time raised' : 'times raised'],
      [count === 0 ? 'none' : peopleDuration(longest), 'longest'],
      [String(bySeries.length), `of ${rehearsal.series.length} series`],
      [String(messages), `${formOf(messages, 'message')} to each recipient`],
      [String(messagesAtNight), 'of them at night'],
      [String(flapping), 'again within an hour']
    ];
  });
  const proposals = $derived(
    (rehearsal?.proposals ?? []).map(({ what, rule, count, flapping }) => {
      const [level] = rule.levels;
      const conditionText = (one: Level) => conditionIn(one.condition, picture?.unit ?? '1');
      const change =
        what === 'limit' && level
          ? `When it ${conditionText(level)}`
          : what === 'levels'
            ? `As grave as past incidents, ${rule.levels.map((one) => `${one.severity} when it ${conditionText(one)}`).join(', ')}`
            : `In ${windowText(rule.window, stepOfAlarm(alarm))}`;
      const result = `raised ${count === 1 ? 'once' : `${count} times`}${flapping > 0 ? `, ${flapping} times again within an hour` : ''}`;
      return { what, rule, says: `${change}: ${result}.` };
    })
  );
</script>

<section class="panel" aria-label="What it would have done">
  <header>
    <h2 class="shrink-0">What it would have done</h2>
    <small
      >{#if rehearsal}replayed over {rehearsal.series.length} series, {rehearsal.windows.toLocaleString('en')} windows, in
        {Math.ceil(rehearsal.milliseconds)} ms{:else if !problem}replaying…{/if}</small
    >
    <label class="ml-auto text-[13px]"
      >Over <select class="field w-auto!" aria-label="Days replayed" bind:value={history.days}
        >{#each historyDays as count (count)}<option value={count}>{days(count)}</option>{/each}</select
      ></label
    >
  </header>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  {#if alarm.combines}<PartLanes {lanes} whole={rehearsal} />{:else if picture}<TimeChart
      {picture}
      {limits}
      {raised}
      height={190}
      choosesRange={false}
      onLimit={disabled ? undefined : dragLimit}
      label="The history against the threshold"
    />{:else}<div class="text-quiet grid h-[190px] place-items-center">Reading the history…</div>{/if}
  <dl
    class={['mt-2 flex flex-wrap gap-y-2', history.isStale && 'opacity-60']}
    aria-busy={history.isStale}
    data-testid="rehearsal"
  >
    {#each figures as [value, name], index (index)}
      <div class={['pr-3', index > 0 && 'border-line border-l pl-3']}>
        <dd class="num text-[20px]! font-bold">{value}</dd>
        <dt class="text-quiet text-[12px]">{name}</dt>
      </div>
    {/each}
  </dl>
  {#if known > 0}<p class="mt-2 text-[13px]" data-testid="missed">
      {#if missed.length === 0}It would have found {known === 1 ? 'the incident' : `all ${known} incidents`} known on what
        it watches.{:else}It would have missed {missed.length} of {countOf(known, 'known incident')}:
        {#each missed.slice(0, mostMissed) as { id, subject, from }, index (id)}{index > 0 ? ', ' : ''}<a
            class="link"
            href="/incidents/{id}">{subject}</a
          >
          <Moment at={from} {now} />{/each}{missed.length > mostMissed
          ? ` and ${missed.length - mostMissed} more`
          : ''}.{/if}
    </p>{/if}
  {#if rehearsal && rehearsal.figures.count > 0}
    <div class="mt-2 grid grid-cols-2 gap-6 max-md:grid-cols-1">
      <figure
        aria-label="Messages by hour of the day: {messagesByHour
          .map((count, hour) => `${hour}:00 ${count}`)
          .join(', ')}"
      >
        <figcaption class="text-quiet text-[12px]">Messages to each recipient, by hour of the day</figcaption>
        <div class="flex h-8 items-end gap-px" aria-hidden="true">
          {#each messagesByHour as count, hour (hour)}<span
              class={['flex-1 rounded-t-[2px]', count === 0 ? 'bg-sunk' : 'bg-note']}
              style:height="{count === 0 ? 6 : 12 + (88 * count) / busiestHour}%"
              title="{hour}:00 to {hour + 1}:00: {countOf(count, 'message')}"
            ></span>{/each}
        </div>
        <div class="text-quiet num flex justify-between text-[11px]" aria-hidden="true">
          <span>0:00</span><span>6:00</span><span>12:00</span><span>18:00</span><span>24:00</span>
        </div>
      </figure>
      <div>
        <p class="text-quiet text-[12px]">Times raised, by series</p>
        {#each bySeries.slice(0, mostSeries) as { seriesId, count } (seriesId)}<p
            class="flex justify-between gap-3 text-[13px]"
          >
            <span class="truncate">{nameOf(seriesId)}</span><span class="num">{count}</span>
          </p>{/each}
        {#if bySeries.length > mostSeries}<p class="text-quiet text-[12px]">
            and {bySeries.length - mostSeries} more
          </p>{/if}
      </div>
    </div>
  {/if}
  {#each proposals as { what, rule, says } (what)}
    <p class="border-line mt-2 flex items-center gap-3 border-t pt-2 text-[13px]">
      <span>{says}</span>
      {#if !disabled}<button
          type="button"
          class="btn ml-auto"
          onclick={() => {
            alarm.rule = rule;
          }}>{useTexts[what]}</button
        >{/if}
    </p>
  {/each}
</section>
{#if periods.length > 0}
  <section class="panel" aria-label="Each time">
    <header>
      <h2>Each time</h2>
      <small>newest first</small>
    </header>
    <table class="rows">
      <thead
        ><tr><th></th><th>Raised</th><th class="right">For</th><th>Series</th><th class="right">Peak</th></tr></thead
      >
      <tbody>
        {#each [...periods].reverse().slice(0, mostShown) as period (`${period.series}/${period.from}`)}
          <tr>
            <td class="w-6"><SeverityHoist severity={period.severity} /></td>
            <td><Moment at={period.from} {now} /></td>
            <td class="right num">{peopleDuration(lengthOf(period))}{period.to === null ? ', still' : ''}</td>
            <td>{nameOf(period.series)}</td>
            <td class="right num">{peakText(period)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if rehearsal && rehearsal.figures.count > mostShown}<p class="text-quiet text-[12px]">
        and {rehearsal.figures.count - mostShown} earlier
      </p>{/if}
  </section>
{/if}
