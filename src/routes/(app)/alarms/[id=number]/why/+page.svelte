<script lang="ts">
  import { DateTime } from 'luxon';
  import { goto } from '$app/navigation';
  import { after, before, exactMoment, hour, minute, range as rangeOf, times } from '$lib/core/time';
  import ExplainedLevels from '$lib/ui/alarm/ExplainedLevels.svelte';
  import IncidentChart from '$lib/ui/alarm/IncidentChart.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { zone } = useReader();
  provideHover();
  const { why } = $derived(data);
  const explanation = $derived(why && !('code' in why.explanation) ? why.explanation : null);
  const problem = $derived(why && 'code' in why.explanation ? why.explanation : null);
  const series = $derived(data.series.find(({ key }) => key === data.key));
  const typed = $derived(DateTime.fromMillis(data.at, { zone }).toFormat("yyyy-MM-dd'T'HH:mm"));
  /** What is in the field. */
  let moment = $derived(typed);
  /** What was so before the window was complete: after a change, what it changed from. */
  const wasRaised = $derived(
    why?.recorded ? (why.recorded.at === explanation?.until ? why.recorded.from : why.recorded.to) === 'raised' : false
  );
  const standing = $derived(why?.standing ?? null);
  const picture = $derived(() => {
    const last = Math.min(live.now, after(data.at, times(30, minute))) as typeof data.at;
    return rangeOf(before(data.at, times(2, hour)), last > data.at ? last : after(data.at, minute));
  });

  function ask(key: string, local: string): void {
    const at = DateTime.fromISO(local, { zone });
    const query = new URLSearchParams({ series: key, ...(at.isValid && { at: at.toUTC().toISO() }) });
    void goto(withRange(`/alarms/${data.id}/why?${query.toString()}`), { keepFocus: true, noScroll: true });
  }
  const step = (minutes: number) =>
    ask(data.key, DateTime.fromMillis(data.at + minutes * 60_000, { zone }).toFormat("yyyy-MM-dd'T'HH:mm"));
</script>

<svelte:head><title>Why: {data.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>Why was it raised, or not?</h1>
    <a class="link" href={withRange(`/alarms/${data.id}`)}>{data.name}</a>
  </div>
  {#if data.series.length === 0}
    <p class="panel text-quiet p-4">It was not judged yet: there is nothing to explain.</p>
  {:else}
    <form
      class="mb-3 flex flex-wrap items-end gap-2 text-[13px]"
      onsubmit={(event) => {
        event.preventDefault();
        ask(data.key, moment);
      }}
    >
      <label
        >Series <select
          class="field w-auto!"
          name="series"
          value={data.key}
          onchange={(event) => ask(event.currentTarget.value, typed)}
          >{#each data.series as { key, subject, account } (key)}<option value={key}
              >{subject}{account === '' ? '' : `, ${account}`}</option
            >{/each}</select
        ></label
      >
      <label>At <input class="field num w-auto!" type="datetime-local" name="at" value={typed} required /></label>
      <button class="btn">Explain</button>
      <button type="button" class="btn" onclick={() => step(-5)}>5 min earlier</button>
      <button type="button" class="btn" onclick={() => step(5)}>5 min later</button>
    </form>
    {#if data.badMoment}<p class="fault mb-2 text-[13px]" role="alert">
        The moment in the address cannot be read: now is shown. Write it as 2026-11-27T14:10:00Z.
      </p>{/if}
    {#if why}
      <section class="panel mb-2.5" aria-label="What it did">
        <header>
          <h2 data-testid="standing">
            {series?.subject ?? 'The series'} was {standing?.state ?? 'not judged yet'}{standing?.severity &&
            standing.state === 'raised'
              ? ` as ${standing.severity}`
              : ''}
          </h2>
          <small>at {exactMoment(data.at, zone)}</small>
        </header>
        <p class="text-[13.5px]">
          {#if standing?.since}It had been so since <Moment
              at={standing.since}
              now={live.now}
            />{#if why.recorded?.incidentId}, in
              <a class="link" href={withRange(`/incidents/${why.recorded.incidentId}`)}>this incident</a>{/if}.{/if}
          {#if !why.existed}The alarm was not there yet: what follows is by its first definition.{:else if !why.definition.enabled}The
            alarm was switched off then, so nothing was judged.{/if}
        </p>
        <p class="text-quiet mt-1 text-[13px]">
          By version {why.version}, of <Moment at={why.since} now={live.now} /> by {why.by}: {data.sentence}
        </p>
        {#if why.changedSince !== null && why.changedSince > 0}
          <p class="text-major mt-1 text-[13px]" data-testid="late">
            {why.changedSince}
            {why.changedSince === 1 ? 'window reads' : 'windows read'} otherwise now than when it was decided: samples came
            later. What was decided stays.
          </p>
        {/if}
      </section>
      {#if why.definition.signal && data.watched && series}
        <section class="panel mb-2.5" aria-label={data.watched.title}>
          <header>
            <h2>{data.watched.title}</h2>
            <small>of {series.subject}, two hours before until half an hour after</small>
          </header>
          {#key `${data.key} ${data.at}`}
            <IncidentChart
              incident={{ ...series, severity: null, openedAt: data.at, closedAt: data.at }}
              alarm={{ signal: why.definition.signal, rule: why.definition.rule }}
              watched={data.watched}
              range={picture}
            />
          {/key}
        </section>
      {/if}
      <section class="panel" aria-label="What its windows held">
        <header>
          <h2>What its windows held</h2>
          {#if explanation}<small
              >the last complete by then, up to {exactMoment(explanation.until, zone)}; oldest first</small
            >{/if}
        </header>
        {#if problem}<p class="fault text-[13px]" role="alert">{problem.message} {problem.remedy}</p>{/if}
        {#if explanation}<ExplainedLevels rule={why.definition.rule} {explanation} {wasRaised} />{/if}
      </section>
    {/if}
  {/if}
</main>
