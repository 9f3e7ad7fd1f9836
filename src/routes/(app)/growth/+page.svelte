<script lang="ts">
  import type { MonthOf, Reached } from '$lib/core/growth';
  import { peopleDate, type Instant } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import { countOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '$lib/ui/api';
  import GrowthChart from '$lib/ui/growth/GrowthChart.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { zone, dates } = useReader();
  interface Series {
    readonly name: string;
    readonly values: readonly (number | null)[];
    readonly growth: {
      readonly slope: number;
      readonly slopeLeast: number;
      readonly slopeMost: number;
      readonly expected: readonly number[];
      readonly low: readonly number[];
      readonly high: readonly number[];
    } | null;
    readonly reached: Reached | null;
    readonly months: readonly MonthOf[];
  }
  interface Answer {
    readonly unit: string;
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
  const text = (value: number) => quantityText(value, answer?.unit ?? '1');

  $effect(() => {
    if (data.signal === null) return;
    const ending = new AbortController();
    const body = {
      ...{ signal: data.signal, daysBack, daysAhead, zone },
      limit: limit === null || !Number.isFinite(limit) ? null : { is, at: limit }
    };
    void callApi<Answer>('POST', '/growth', { body, signal: ending.signal }).then((reply) => {
      if (reply.kind === 'answered') [answer, problem] = [reply.answer, ''];
      if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    });
    return () => ending.abort();
  });

  const aheadOn = (days: number | null): string => {
    const at = days === null ? undefined : answer?.ahead[days - 1];
    return at === undefined ? `not within ${countOf(daysAhead, 'day')}` : peopleDate(at, dates);
  };
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
              limit: limit === null || !Number.isFinite(limit) ? null : limit,
              dayWords: (at: Instant) => peopleDate(at, dates),
              valueWords: text
            }}
            label="{shown.name}, the days that are over and those ahead"
          />
        </section>
      {/if}
      <section class="panel mb-2.5 overflow-x-auto" aria-label="Series">
        <table class="rows">
          <thead
            ><tr
              ><th>Series</th><th class="right">Now</th><th class="right">In 30 days</th><th class="right"
                >In {countOf(daysAhead, 'day')}</th
              >{#if limit !== null}<th>Reaches {text(limit)}</th>{/if}</tr
            ></thead
          >
          <tbody>
            {#each answer.series as one, index (index)}
              {@const { growth, reached } = one}
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
                {#if limit !== null}<td
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
