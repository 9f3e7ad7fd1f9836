<script lang="ts">
  import { reachedWhen, type Growth, type MonthOf, type Reached } from '$lib/core/growth';
  import { peopleDateOfYear, type Instant } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import { countOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '$lib/ui/api';
  import GrowthChart from '$lib/ui/growth/GrowthChart.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { zone, dates } = useReader();
  /** As it is sent: numbers are lists. */
  type Sent = Omit<Answer, 'series'> & {
    readonly series: readonly (Omit<Series, 'growth'> & {
      readonly growth: (Omit<Growth, Course> & Readonly<Record<Course, readonly number[]>>) | null;
    })[];
  };
  type Course = 'expected' | 'low' | 'high';
  const read = ({ series, ...rest }: Sent): Answer => ({
    ...rest,
    series: series.map(({ growth, ...one }) => ({
      ...one,
      growth: growth && {
        ...growth,
        expected: Float64Array.from(growth.expected),
        low: Float64Array.from(growth.low),
        high: Float64Array.from(growth.high)
      }
    }))
  });
  interface Series {
    readonly name: string;
    readonly values: readonly (number | null)[];
    readonly unit: string;
    readonly growth: Growth | null;
    readonly months: readonly MonthOf[];
  }
  interface Answer {
    readonly starts: readonly Instant[];
    readonly ahead: readonly Instant[];
    readonly series: readonly Series[];
    readonly more: number;
  }
  let daysBack = $state(400);
  let daysAhead = $state(90);
  let is = $state<'above' | 'below'>('above');
  let limit = $state<number | null>(null);
  let answer = $state.raw<Answer | null>(null);
  let problem = $state('');
  let chosen = $state(0);
  const shown = $derived(answer?.series[chosen] ?? answer?.series[0] ?? null);

  $effect(() => {
    if (data.signal === null) return;
    const ending = new AbortController();
    const body = { signal: data.signal, daysBack, daysAhead, zone };
    void callApi<Sent>('POST', '/growth', { body, signal: ending.signal }).then((reply) => {
      if (reply.kind === 'answered') [answer, problem] = [read(reply.answer), ''];
      if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    });
    return () => ending.abort();
  });

  const aheadOn = (days: number | null): string => {
    const at = days === null ? undefined : answer?.ahead[days - 1];
    return at === undefined ? `not within ${countOf(answer?.ahead.length ?? 0, 'day')}` : peopleDateOfYear(at, dates);
  };
  /** The limit, once a number is typed. */
  const bound = $derived(limit !== null && Number.isFinite(limit) ? limit : null);
  const reachedBy = ({ growth }: Series): Reached | null =>
    growth === null || bound === null ? null : reachedWhen(growth, is, bound);
  const lastOf = ({ values }: Series): number => values.findLast((value) => value !== null) ?? NaN;
  const percent = (now: number, before: number): string => {
    const change = ((now - before) / Math.abs(before)) * 100;
    return Number.isFinite(change) ? `${change >= 0 ? '+' : '−'}${Math.abs(change).toFixed(0)} %` : '';
  };
  const monthWords = (month: string): string =>
    new Intl.DateTimeFormat('en', { month: 'long', year: 'numeric', timeZone: 'UTC' }).format(
      new Date(`${month}-01T00:00:00Z`)
    );
</script>

<svelte:head><title>Growth · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-2">{data.title === '' ? 'Growth' : data.title}</h1>
  {#if data.signal === null}
    <p class="text-quiet">
      Open it from a panel of a board, <b>Growth of this</b>, or from the <a class="link" href="/bench">bench</a>.
    </p>
  {:else}
    <p class="sentence mb-2.5 text-[15px]!">
      From
      <select class="part" aria-label="Days back" bind:value={daysBack}>
        <option value={30}>30 days</option><option value={90}>90 days</option><option value={180}>6 months</option
        ><option value={400}>13 months</option><option value={800}>26 months</option>
      </select>, day by day, for the next
      <select class="part" aria-label="Days ahead" bind:value={daysAhead}>
        <option value={30}>30 days</option><option value={90}>90 days</option><option value={365}>year</option>
      </select>: when is it
      <select class="part" aria-label="Side of the limit" bind:value={is}
        ><option value="above">above</option><option value="below">below</option></select
      >
      <input
        class="part w-[110px]"
        aria-label="Limit"
        type="number"
        step="any"
        placeholder="a limit"
        bind:value={limit}
      />?
    </p>
    {#if problem !== ''}<p class="fault mb-2" role="alert">{problem}</p>{/if}
    {#if answer === null && problem === ''}<p class="text-quiet" role="status">Reading its days …</p>{/if}
    {#if answer !== null}
      {#if shown !== null}
        <section class="panel mb-2.5" aria-label="How it goes on">
          <header>
            <h2>{shown.name}</h2>
            <small
              >{shown.growth === null
                ? 'fewer than 14 days: too little to say how it goes on'
                : 'dashed what is expected; 80 of 100 days lie in the band'}</small
            >
          </header>
          <GrowthChart
            picture={{
              ...{ starts: answer.starts, values: shown.values, ahead: answer.ahead },
              ...{
                expected: shown.growth?.expected ?? [],
                low: shown.growth?.low ?? [],
                high: shown.growth?.high ?? []
              },
              limit: bound,
              dayWords: (at: Instant) => peopleDateOfYear(at, dates),
              valueWords: (value: number) => quantityText(value, shown.unit)
            }}
            label="{shown.name}, the days that are over and those ahead"
          />
        </section>
      {/if}
      <section class="panel mb-2.5 overflow-x-auto" aria-label="Series">
        <table class="rows">
          <thead
            ><tr
              ><th>Series</th><th class="right">Now</th><th class="right">Change in 30 days</th><th class="right"
                >Expected in {countOf(answer.ahead.length, 'day')}</th
              >{#if bound !== null}<th>Is {is} {quantityText(bound, answer.series[0]?.unit ?? '1')}</th>{/if}</tr
            ></thead
          >
          <tbody>
            {#each answer.series as one, index (index)}
              {@const { growth, unit } = one}
              {@const reached = reachedBy(one)}
              {@const text = (value: number) => quantityText(value, unit)}
              <tr>
                <td><button class="link text-left" onclick={() => (chosen = index)}>{one.name}</button></td>
                <td class="num right">{text(lastOf(one))}</td>
                <td class="num right"
                  >{#if growth !== null}{growth.slope >= 0 ? '+' : '−'}{text(Math.abs(growth.slope * 30))}<span
                      class="text-quiet block text-[12px]"
                      >{text(growth.slopeLeast * 30)} to {text(growth.slopeMost * 30)}</span
                    >{/if}</td
                >
                <td class="num right"
                  >{#if growth !== null}{text(growth.expected.at(-1) ?? NaN)}<span class="text-quiet block text-[12px]"
                      >{text(growth.low.at(-1) ?? NaN)} to {text(growth.high.at(-1) ?? NaN)}</span
                    >{/if}</td
                >
                {#if bound !== null}<td
                    >{#if reached !== null}{aheadOn(reached.expected)}<span class="text-quiet block text-[12px]"
                        >{reached.earliest === null
                          ? ''
                          : `from ${aheadOn(reached.earliest)}${reached.latest === null ? ' on' : ` to ${aheadOn(reached.latest)}`}`}</span
                      >{/if}</td
                  >{/if}
              </tr>
            {:else}<tr><td colspan="5" class="text-quiet">Nothing is stored of it in this time.</td></tr>{/each}
          </tbody>
        </table>
        {#if answer.more > 0}<p class="text-quiet mt-1 text-[12px]">
            {countOf(answer.more, 'series', 'series')} more: narrow the signal on the
            <a class="link" href={withRange(`/bench?signal=${encodeURIComponent(JSON.stringify(data.signal))}`)}
              >bench</a
            >.
          </p>{/if}
      </section>
      {#if shown !== null && shown.months.length > 0}
        <section class="panel overflow-x-auto" aria-label="Months">
          <header>
            <h2>Months</h2>
            <small>means of their days, beside the same month a year before</small>
          </header>
          <table class="rows">
            <thead
              ><tr
                ><th>Month</th><th class="right">Mean</th><th class="right">A year before</th><th class="right"
                  >Change</th
                ><th class="right">Days</th></tr
              ></thead
            >
            <tbody>
              {#each shown.months.toReversed() as { month, mean, yearBefore, days } (month)}
                {@const text = (value: number) => quantityText(value, shown.unit)}
                <tr
                  ><td>{monthWords(month)}</td><td class="num right">{text(mean)}</td><td class="num right"
                    >{yearBefore === null ? '' : text(yearBefore)}</td
                  ><td class="num right">{yearBefore === null ? '' : percent(mean, yearBefore)}</td><td
                    class="num right">{days}</td
                  ></tr
                >
              {/each}
            </tbody>
          </table>
        </section>
      {/if}
    {/if}
  {/if}
</main>
