<script lang="ts">
  import { leftText, minutesText, rateText, shareText } from '$lib/core/objective';
  import { duration, peopleDate, peopleDuration, peopleMoment, type Instant } from '$lib/core/time';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Behind from '$lib/ui/objective/Behind.svelte';
  import LeftChart from '$lib/ui/objective/LeftChart.svelte';
  import ObjectiveEditor from '$lib/ui/objective/ObjectiveEditor.svelte';
  import { lastsWords } from '$lib/ui/objective/lasts';
  import { levelReached } from '$lib/ui/objective/reached';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { dates } = useReader();
  useRefresh(useLive(), ['objectives'], 'bussola:objectives');
  const dayOf = (at: Instant) => peopleDate(at, dates);
  const objective = $derived(data.stored.value);
  const isRolling = $derived(objective.period.kind === 'rolling');
  const isTime = $derived(objective.of.kind === 'time');
  const standing = $derived(data.view?.standing ?? null);
  const heading = $derived.by(() => {
    if (standing === null || standing.left === null) return `${objective.name}: nothing is counted yet`;
    if (standing.spentSince !== null) return `${objective.name} is broken: its error budget is used up`;
    return `${objective.name} is met: ${leftText(standing.left)} of its error budget is left`;
  });
  const lasts = $derived(standing === null ? '' : lastsWords(standing, isRolling, dayOf));
  const reached = $derived(standing && levelReached(objective, standing));
  /** What is counted, as people say it: cells as time. */
  const amount = (of: number) =>
    isTime
      ? peopleDuration(duration(Math.round(of * 5) * 60_000))
      : new Intl.NumberFormat('en', { maximumFractionDigits: of < 10 ? 1 : 0 }).format(of);
  const usedText = (share: number) => (share < 0.01 ? 'below 1 %' : `${Math.round(share * 100)} %`);
  /** The levels that look at a span. */
  const levelsOf = (minutes: number) =>
    objective.levels.filter((one) => one.longMinutes === minutes || one.shortMinutes === minutes);
</script>

<svelte:head><title>{objective.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1>{heading}.</h1>
  {#if data.problem}<p class="fault mb-3 text-[14px]" role="alert">{data.problem.message} {data.problem.remedy}</p>
  {:else if data.view && standing}
    {@const { left, past, used, leftOut } = data.view}
    <p class="text-quiet mb-3 text-[14px]">
      {standing.share === null ? '' : `${shareText(standing.share)} good against ${objective.targetPercent} %`}; {dayOf(
        standing.period.from
      )} to {isRolling ? 'now' : dayOf(standing.period.to)}.
      {lasts === ''
        ? ''
        : `The error budget ${standing.spentSince !== null || standing.spentAt === null ? 'is' : 'lasts'} ${lasts}.`}
      {leftOut.length === 0
        ? ''
        : `Planned maintenance is left out: ${leftOut.length} ${leftOut.length === 1 ? 'span' : 'spans'}.`}
    </p>
    <Behind name={objective.name} until={standing.until} now={data.now} />
    <div class="mb-2.5 grid grid-cols-[minmax(0,1fr)_336px] gap-2.5 max-lg:grid-cols-1">
      <section class="panel" aria-label="Error budget left">
        <header>
          <h2>Error budget left</h2>
          <small>{amount(standing.allowed)} may be bad; {amount(standing.bad)} was</small>
        </header>
        <LeftChart
          picture={{
            span: { from: standing.period.from, to: isRolling ? standing.until : standing.period.to },
            at: left.at,
            values: left.values,
            day: dayOf
          }}
          label="{objective.name}: error budget left over the period, now {leftText(standing.left ?? 0)}"
        />
      </section>
      <section class="panel" aria-label="How fast it is used">
        <header>
          <h2>How fast it is used</h2>
          <small>1 lasts exactly the period</small>
        </header>
        <table class="rows text-[13px]">
          <tbody>
            {#each standing.rates as { minutes, rate } (minutes)}
              {@const levels = levelsOf(minutes)}
              <tr data-span={minutes}>
                <td class="whitespace-nowrap">last {minutesText(minutes)}</td>
                <td class={['num right', levels.some((one) => rate !== null && rate > one.rate) ? 'font-semibold' : '']}
                  >{rate === null ? '–' : rateText(rate)}</td
                >
                <td class="text-quiet"
                  >{#each levels as one (one.severity)}<span class="flex items-center gap-1.5"
                      ><SeverityHoist severity={one.severity} />above {rateText(one.rate)}</span
                    >{/each}</td
                >
              </tr>
            {/each}
          </tbody>
        </table>
        <p class="text-quiet mt-2 text-[13px]">
          {reached === null
            ? 'A level needs its short and its long span above its rate, so that what is over in minutes wakes nobody.'
            : `Both spans of ${reached} are above its rate.`}
        </p>
      </section>
      <section class="panel" aria-label="What used it">
        <header>
          <h2>What used it</h2>
          <small>largest first, with its share of the error budget</small>
        </header>
        <ul class="text-[13px]">
          {#each used as { from, to, bad, share, incidents, marks } (from)}
            <li class="border-line grid grid-cols-[110px_minmax(0,1fr)_auto] gap-3 border-b py-1.5 last:border-b-0">
              <span class="num whitespace-nowrap">{peopleMoment(from, data.now, dates)}</span>
              <span class="min-w-0">
                {#each incidents as { id, subject, severity } (id)}<a
                    class="flex items-center gap-1.5 hover:underline"
                    href="/incidents/{id}"><SeverityHoist {severity} /><span class="truncate">{subject}</span></a
                  >{/each}
                {#each marks as { text, at } (at)}<span class="text-note block truncate">⚑ {text}</span>{/each}
                {#if incidents.length === 0 && marks.length === 0}<span class="text-quiet"
                    >no incident and no mark; for {peopleDuration(duration(to - from))}</span
                  >{/if}
              </span>
              <span class="num text-right whitespace-nowrap">{amount(bad)}, {usedText(share)}</span>
            </li>
          {:else}
            <li class="text-quiet py-1.5">Nothing was worse than the target in this period.</li>
          {/each}
        </ul>
      </section>
      <section class="panel" aria-label="Past periods">
        <header><h2>Past periods</h2></header>
        <table class="rows text-[13px]">
          <tbody>
            {#each past as one (one.period.from)}
              <tr>
                <td>{dayOf(one.period.from)} to {dayOf(one.period.to)}</td>
                <td class="num right">{one.share === null ? '–' : shareText(one.share)}</td>
                <td class={one.left !== null && one.left <= 0 ? 'fault' : 'text-quiet'}
                  >{one.left !== null && one.left <= 0 ? 'broken' : 'met'}</td
                >
              </tr>
            {:else}
              <tr><td class="text-quiet">Nothing of an earlier period is stored.</td></tr>
            {/each}
          </tbody>
        </table>
      </section>
    </div>
  {/if}
  <h2 class="mb-2 text-[15px]">The promise in words</h2>
  {#key data.stored.id}<ObjectiveEditor
      stored={data.stored}
      {objective}
      choices={data.choices}
      routes={data.routes}
    />{/key}
</main>
