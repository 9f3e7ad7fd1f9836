<script lang="ts">
  import { phases, phaseWords, targetWords } from '$lib/core/reachability';
  import { duration, spokenDuration } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Swatch from '$lib/ui/chart/Swatch.svelte';
  import CheckMark from '$lib/ui/reachability/CheckMark.svelte';
  import PhaseBar from '$lib/ui/reachability/PhaseBar.svelte';
  import { isSoon, timeWords, validWords } from '$lib/ui/reachability/words';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  useRefresh(live, ['reachability'], 'bussola:checks');
  const order = { down: 0, unknown: 1, up: 2 };
  const checks = $derived(
    [...data.checks].sort(
      (one, other) =>
        Number(other.check.enabled) - Number(one.check.enabled) ||
        order[one.standing.state] - order[other.standing.state]
    )
  );
  const on = $derived(data.checks.filter(({ check }) => check.enabled));
  const down = $derived(on.filter(({ standing }) => standing.state === 'down').length);
  const heading = $derived(
    on.length === 0
      ? 'Nothing is checked from outside'
      : down > 0
        ? `${down} of ${countOf(on.length, 'check')} ${down === 1 ? 'is' : 'are'} down`
        : on.length === 1
          ? 'The check is up'
          : `All ${on.length} checks are up`
  );
</script>

<svelte:head><title>Checks · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-2">
    <h1>{heading}</h1>
    <span class="text-quiet text-[14px]">as Bussola sees it from its own place on the network</span>
    <span class="ml-auto flex gap-2">
      {#if on.length > 0}<a class="btn" href={withRange('/services/reachability/board')}>Charts</a>{/if}
      {#if mayEdit}<a class="btn" href="/checks/new">New check</a>{/if}
    </span>
  </div>
  {#if on.length > 0 && !data.isWatched}
    <p class="mb-2 text-[13px]">
      <b>!</b> No alarm watches whether checks are up: nobody is notified.
      {#if mayEdit}<a class="link" href="/alarms/recommended?service=reachability">See the recommended alarms</a>{/if}
    </p>
  {/if}
  <section class="panel overflow-x-auto" aria-label="Checks">
    <table class="rows">
      <thead
        ><tr
          ><th>State</th><th>Check</th><th>Since</th><th colspan="2">Last answer</th><th>Certificate</th><th>Every</th
          ></tr
        ></thead
      >
      <tbody>
        {#each checks as { id, check, standing, last } (id)}
          <tr data-check={check.name}>
            <td><CheckMark state={check.enabled ? standing.state : null} /></td>
            <td class="min-w-[220px]"
              ><a class="link font-semibold" href={withRange(`/checks/${id}`)}>{check.name}</a>
              <span class="text-quiet block text-[12px] break-all">{targetWords(check.target)}</span>
              {#if check.enabled && last !== null && last.problem !== null}<span class="fault block text-[13px]"
                  >{last.problem}{standing.state === 'down'
                    ? ''
                    : ` It is retried: ${countOf(standing.failures, 'failure')} so far.`}</span
                >{/if}</td
            >
            <td
              >{#if check.enabled && standing.since !== null}<Moment at={standing.since} now={live.now} />{/if}</td
            >
            {#if last !== null && last.problem === null}
              <td class="num right">{timeWords(last.took)}</td>
              <td><PhaseBar attempt={last} /></td>
            {:else}<td></td><td></td>{/if}
            <td class="whitespace-nowrap"
              >{#if last !== null && last.certificateUntil !== null}<span
                  class={isSoon(last.certificateUntil, live.now) ? 'fault' : ''}
                  >{validWords(last.certificateUntil, live.now)}</span
                >{/if}</td
            >
            <td class="text-quiet whitespace-nowrap">{spokenDuration(duration(check.every * 1000))}</td>
          </tr>
        {:else}
          <tr
            ><td colspan="7" class="text-quiet"
              >A check asks for a page, opens a connection or looks a name up, as people outside do, and says whether it
              worked and how long it took. {#if mayEdit}<a class="link" href="/checks/new">Make the first one</a
                >{/if}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    {#if on.length > 0}
      <p class="text-quiet mt-2 flex flex-wrap gap-x-3 text-[12px]">
        Where the time of the last answer went:
        {#each phases as phase, index (phase)}<span class="flex items-center gap-1"
            ><Swatch hue={index + 1} />{phaseWords[phase]}</span
          >{/each}
      </p>
    {/if}
  </section>
</main>
