<script lang="ts">
  import { countOf, formOf } from '$lib/core/words/count';
  import type { AlarmDefinition, Rehearsal } from '$lib/core/alarm';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import { limitText, quantityText } from '$lib/core/units';
  import TimeChart from '../chart/TimeChart.svelte';
  import type { Picture } from '../chart/picture';
  import Moment from '../time/Moment.svelte';
  import SeverityHoist from './SeverityHoist.svelte';

  interface Props {
    alarm: AlarmDefinition;
    /** The last day as a chart draws it; null while it is read. */
    picture: Picture | null;
    rehearsal: Rehearsal | null;
    problem: string | null;
    now: Instant;
  }
  let { alarm, picture, rehearsal, problem, now }: Props = $props();
  const periods = $derived(rehearsal?.periods ?? []);
  const threshold = $derived(alarm.rule.condition.threshold);
  const limits = $derived(
    picture && Number.isFinite(threshold)
      ? [
          {
            value: threshold,
            severity: alarm.severity,
            text: `${limitText(threshold, picture.unit)} ${alarm.severity}`
          }
        ]
      : []
  );
  const raised = $derived(periods.map(({ from, to }) => ({ from, to, severity: alarm.severity })));
  const lengthOf = ({ from, to }: { from: Instant; to: Instant | null }) =>
    duration(Math.max(0, (to ?? picture?.range.to ?? from) - from));
  const longest = $derived(periods.reduce((most, period) => Math.max(most, lengthOf(period)), 0));
  const nameOf = (seriesId: number) => picture?.lines.find(({ id }) => id === seriesId)?.name ?? '';
  /** One when it is raised, one when it clears. */
  const messages = $derived(periods.reduce((sum, { to }) => sum + (to === null ? 1 : 2), 0) * alarm.channels.length);
  const figures = $derived([
    [String(periods.length), periods.length === 1 ? 'time raised' : 'times raised'],
    [periods.length === 0 ? 'none' : peopleDuration(duration(longest)), 'longest'],
    [String(new Set(periods.map(({ seriesId }) => seriesId)).size), `of ${picture?.lines.length ?? 0} series`],
    [String(messages), `${formOf(messages, 'message')} to ${countOf(alarm.channels.length, 'channel')}`]
  ]);
</script>

<section class="panel" aria-label="What it would have done">
  <header>
    <h2 class="shrink-0">What it would have done</h2>
    <small
      >{rehearsal
        ? `replayed over the last day of ${picture?.lines.length ?? 0} series, ${rehearsal.windows.toLocaleString('en')} windows`
        : ''}</small
    >
  </header>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  {#if picture}<TimeChart
      {picture}
      {limits}
      {raised}
      height={190}
      choosesRange={false}
      label="The last day against the threshold"
    />{:else}<div class="text-quiet grid h-[190px] place-items-center">Reading the last day…</div>{/if}
  <dl class="mt-2 flex flex-wrap gap-y-2" data-testid="rehearsal">
    {#each figures as [value, name], index (index)}
      <div class={['pr-6', index > 0 && 'border-line border-l pl-6']}>
        <dd class="num text-[20px]! font-bold">{value}</dd>
        <dt class="text-quiet text-[13px]">{name}</dt>
      </div>
    {/each}
  </dl>
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
        {#each [...periods].reverse().slice(0, 12) as period (`${period.seriesId}/${period.from}`)}
          <tr>
            <td class="w-6"><SeverityHoist severity={alarm.severity} /></td>
            <td><Moment at={period.from} {now} /></td>
            <td class="right num">{peopleDuration(lengthOf(period))}{period.to === null ? ', still' : ''}</td>
            <td>{nameOf(period.seriesId)}</td>
            <td class="right num">{quantityText(period.peak, picture?.unit ?? '1')}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if periods.length > 12}<p class="text-quiet text-[12px]">and {periods.length - 12} earlier</p>{/if}
  </section>
{/if}
