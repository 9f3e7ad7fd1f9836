<script lang="ts">
  import { severities } from '$lib/core/alarm';
  import { aboutMoney, changeWords, dayWords, micros, roundMoney } from '$lib/core/cost';
  import { leftText, shareText } from '$lib/core/objective';
  import { isMet, summarySentences, type Summary } from '$lib/core/summary';
  import { peopleDuration, type Duration } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import Moment from '../time/Moment.svelte';
  import DayBarsChart from './DayBarsChart.svelte';

  interface Props {
    summary: Summary;
    /** Whether whoever reads it has signed in, and can follow links into Bussola. */
    isInside: boolean;
  }
  let { summary, isInside }: Props = $props();
  const { incidents, services, longest, promises, cost, sizes, changed, moreChanged } = $derived(summary);
  const sentences = $derived(summarySentences(summary));
  const before = $derived(`${summary.kind === 'week' ? 'Week' : 'Month'} before`);
  const money = (amount: number | null): string =>
    amount === null || cost === null ? 'unknown' : roundMoney(micros(amount), cost.currency);
  const wholeOnly = (value: number): string => (Number.isInteger(value) ? String(value) : '');
  const incidentBars = $derived({
    dates: incidents.days.map(({ date }) => date),
    stacks: severities.map((severity, index) => ({
      ...{ name: severity, colour: `--${severity}` },
      values: incidents.days.map(({ counts }) => counts[index] ?? 0)
    }))
  });
  const costBars = $derived(
    cost === null
      ? null
      : {
          dates: cost.days.map(({ date }) => date),
          stacks: [
            {
              ...{ name: 'Cost', colour: '--hue-1' },
              values: cost.days.map(({ amount }) => (amount === null ? null : amount / 1_000_000))
            }
          ]
        }
  );
</script>

<ul class="mb-3 flex max-w-[80ch] flex-col gap-1 text-[15px]" aria-label="In short">
  {#each sentences as sentence, index (index)}
    <li class={index === 0 ? 'text-[17px] font-semibold' : ''}>{sentence}</li>
  {/each}
</ul>
<div class="grid grid-cols-2 items-start gap-2.5 max-md:grid-cols-1">
  <div class="flex min-w-0 flex-col gap-2.5">
    <section class="panel" aria-label="Incidents">
      <header>
        <h2>Incidents</h2>
        <small>of each day, by how grave they became</small>
      </header>
      {#if incidents.total > 0}<DayBarsChart
          bars={incidentBars}
          valueWords={wholeOnly}
          label="{incidents.total} incidents, by day and by how grave they became"
        />{/if}
      <table class="rows">
        <thead><tr><th>How grave</th><th class="right">Raised</th><th class="right">{before}</th></tr></thead>
        <tbody>
          {#each incidents.bySeverity as { severity, count, earlier } (severity)}
            <tr data-severity={severity}>
              <td><SeverityHoist {severity} /> <span class="ml-1">{severity}</span></td>
              <td class="num right">{count}</td>
              <td class="num right text-quiet">{earlier}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
    <section class="panel overflow-x-auto" aria-label="Services">
      <header>
        <h2>Services</h2>
        <small>those with the gravest first</small>
      </header>
      <table class="rows">
        <thead
          ><tr
            ><th>Service</th><th class="right">Resources</th><th class="right">Raised</th><th class="right">{before}</th
            ></tr
          ></thead
        >
        <tbody>
          {#each services as { service, title, resources, count, earlier, worst } (service)}
            <tr data-service={service}>
              <td
                ><span class="inline-block w-4"
                  >{#if worst !== null}<SeverityHoist severity={worst} />{/if}</span
                >
                {#if isInside}<a class="hover:underline" href="/services/{service}">{title}</a>{:else}{title}{/if}</td
              >
              <td class="num right">{resources.toLocaleString('en')}</td>
              <td class="num right">{count}</td>
              <td class="num right text-quiet">{earlier}</td>
            </tr>
          {:else}<tr><td colspan="4" class="text-quiet">No resource is known yet.</td></tr>{/each}
        </tbody>
      </table>
    </section>
    <section class="panel overflow-x-auto" aria-label="Longest incidents">
      <header><h2>Longest incidents</h2></header>
      <table class="rows">
        <thead><tr><th>Incident</th><th>Raised</th><th class="right">Lasted</th></tr></thead>
        <tbody>
          {#each longest as { id, alarm, subject, severity, openedAt, closedAt, length } (id)}
            <tr>
              <td
                ><SeverityHoist {severity} />
                {#if isInside}<a class="ml-1 hover:underline" href="/incidents/{id}">{subject}</a>{:else}<span
                    class="ml-1">{subject}</span
                  >{/if}
                {#if alarm !== subject}<span class="text-quiet block text-[12px]">{alarm}</span>{/if}</td
              >
              <td class="whitespace-nowrap"><Moment at={openedAt} now={summary.madeAt} /></td>
              <td class="num right whitespace-nowrap"
                >{peopleDuration(length as Duration)}{#if closedAt === null}<span class="fault block text-[12px]"
                    >still open</span
                  >{/if}</td
              >
            </tr>
          {:else}<tr><td colspan="3" class="text-quiet">Nothing was raised.</td></tr>{/each}
        </tbody>
      </table>
    </section>
  </div>
  <div class="flex min-w-0 flex-col gap-2.5">
    <section class="panel overflow-x-auto" aria-label="Promises">
      <header>
        <h2>Promises</h2>
        <small>as they stood at its end</small>
      </header>
      <table class="rows">
        <thead
          ><tr
            ><th>Promise</th><th class="right">Good</th><th class="right">Promised</th><th class="right">Budget left</th
            ></tr
          ></thead
        >
        <tbody>
          {#each promises as one (one.id)}
            <tr>
              <td
                >{#if isInside}<a class="hover:underline" href="/objectives/{one.id}">{one.name}</a
                  >{:else}{one.name}{/if}
                <span class="text-quiet block text-[12px]"
                  >over {one.over}{one.problem === '' ? '' : `: ${one.problem}`}</span
                ></td
              >
              <td class="num right">{one.good === null ? 'unknown' : shareText(one.good)}</td>
              <td class="num right">{one.targetPercent} %</td>
              <td class={['num right', isMet(one) === false ? 'fault font-semibold' : '']}
                >{one.left === null ? 'unknown' : isMet(one) === false ? 'spent' : leftText(one.left)}</td
              >
            </tr>
          {:else}<tr
              ><td colspan="4" class="text-quiet"
                >{#if isInside}<a class="link" href="/objectives">Promise something</a> and it is said here whether it is
                  met.{:else}Nothing is promised yet.{/if}</td
              ></tr
            >{/each}
        </tbody>
      </table>
    </section>
    {#if sizes.length > 0}
      <section class="panel" aria-label="What is stored">
        <header><h2>What is stored</h2></header>
        <table class="rows">
          <thead><tr><th></th><th class="right">At its end</th><th class="right">At its beginning</th></tr></thead>
          <tbody>
            {#each sizes as { what, unit, value, earlier } (what)}
              <tr>
                <td>{what}</td>
                <td class="num right">{quantityText(value, unit)}</td>
                <td class="num right text-quiet">{earlier === null ? 'unknown' : quantityText(earlier, unit)}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </section>
    {/if}
    <section class="panel" aria-label="Cost">
      <header>
        <h2>Cost</h2>
        <small
          >{#if cost === null}nothing is billed{:else if cost.unbilledFrom !== null}of each day; bills arrive later{:else}of
            each day{/if}</small
        >
      </header>
      {#if cost !== null && costBars !== null}
        {@const currency = cost.currency}
        <DayBarsChart
          bars={costBars}
          valueWords={(value: number) => aboutMoney(value, currency)}
          label="What each day cost, {money(cost.total)} in all"
        />
        <table class="rows">
          <thead
            ><tr><th>Service</th><th class="right">Cost</th><th class="right">{before}</th><th class="right"></th></tr
            ></thead
          >
          <tbody>
            {#each cost.services as { title, total, earlier }, index (index)}
              <tr>
                <td>{title}</td>
                <td class="num right">{money(total)}</td>
                <td class="num right text-quiet">{money(earlier)}</td>
                <td class="num right">{earlier === null ? '' : (changeWords(total, earlier) ?? 'new')}</td>
              </tr>
            {/each}
          </tbody>
        </table>
        {#each cost.changes as { what, date, before: was, after, near }, index (index)}
          <p class="text-[13px]">
            <b>{what}</b>
            {aboutMoney(after, currency)} a day since {dayWords(date)}, before {aboutMoney(was, currency)}{near === ''
              ? ''
              : `; near: ${near}`}
          </p>
        {/each}
      {/if}
    </section>
    <section class="panel overflow-x-auto" aria-label="What was changed">
      <header>
        <h2>What was changed</h2>
        <small>as people and programs marked it</small>
      </header>
      <table class="rows">
        <tbody>
          {#each changed as { at, text }, index (index)}
            <tr
              ><td>{text}</td><td class="text-quiet right whitespace-nowrap"><Moment {at} now={summary.madeAt} /></td
              ></tr
            >
          {:else}<tr><td class="text-quiet">Nothing was marked.</td></tr>{/each}
          {#if moreChanged > 0}<tr><td colspan="2" class="text-quiet">and {moreChanged} more</td></tr>{/if}
        </tbody>
      </table>
    </section>
  </div>
</div>
