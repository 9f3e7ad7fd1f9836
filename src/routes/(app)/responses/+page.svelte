<script lang="ts">
  import { responseSentence } from '$lib/core/response';
  import { countOf } from '$lib/core/words/count';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import RunList from '$lib/ui/response/RunList.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  useRefresh(live, ['responses'], 'bussola:responses');
  const stopped = $derived(data.responses.filter(({ stoppedAt }) => stoppedAt !== null));
  const on = $derived(data.responses.filter(({ response, stoppedAt }) => response.enabled && stoppedAt === null));
  const underWay = $derived(data.runs.filter(({ state }) => state === 'sending' || state === 'going').length);
  const heading = $derived(
    stopped.length > 0
      ? `${countOf(stopped.length, 'response')} stopped after failures`
      : underWay > 0
        ? `${underWay === 1 ? 'Something is' : `${underWay} things are`} being done`
        : on.length === 0
          ? 'Nothing is done by itself'
          : `${countOf(on.length, 'response')} ${on.length === 1 ? 'is' : 'are'} ready to act`
  );
  const channelName = (id: number) => data.channels[id] ?? `channel ${id}`;
</script>

<svelte:head><title>Responses · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-2">
    <h1 class={stopped.length > 0 ? 'text-major' : ''}>{heading}</h1>
    <span class="text-quiet text-[14px]">what is done at providers when alarms stay raised</span>
    {#if mayEdit && data.mayActOnAll}<a class="btn ml-auto" href="/responses/new">New response</a>{/if}
  </div>
  <section class="panel mb-2.5 overflow-x-auto" aria-label="Responses">
    <table class="rows">
      <thead><tr><th>State</th><th>Response</th><th>Alarm</th><th>Changed</th></tr></thead>
      <tbody>
        {#each data.responses as { id, response, alarm, stoppedAt, stoppedWhy, changedAt, changedBy } (id)}
          <tr data-response={response.name}>
            <td class="whitespace-nowrap"
              >{#if !response.enabled}<span class="text-quiet">off</span>{:else if stoppedAt !== null}<b class="fault"
                  >stopped</b
                >{:else}ready{/if}</td
            >
            <td class="min-w-[280px]"
              ><a class="link font-semibold" href="/responses/{id}">{response.name}</a>
              <span class="text-quiet block text-[12px]">{responseSentence(response, channelName)}</span>
              {#if stoppedAt !== null}<span class="fault block text-[13px]"
                  >Stopped <Moment at={stoppedAt} now={live.now} />: {stoppedWhy} Save it to let it act again.</span
                >{/if}</td
            >
            <td
              >{#if alarm === null}<span class="fault">removed</span>{:else}<a
                  class="link"
                  href={withRange(`/alarms/${response.alarmId}`)}>{alarm}</a
                >{/if}</td
            >
            <td class="text-quiet whitespace-nowrap"><Moment at={changedAt} now={live.now} />, {changedBy}</td>
          </tr>
        {:else}
          <tr
            ><td colspan="4" class="text-quiet"
              >A response restarts, stops or changes a resource, or calls a webhook of yours, when an alarm has been
              raised for a while and nobody looks after it. {#if mayEdit && data.mayActOnAll}<a
                  class="link"
                  href="/responses/new">Make the first one</a
                >{:else}Whoever may act on the resources of every account makes them: see <a class="link" href="/people"
                  >People</a
                >.{/if}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </section>
  <section class="panel" aria-label="What was done">
    <header>
      <h2>What was done</h2>
      <small>by responses and by people, newest first</small>
    </header>
    <RunList
      runs={data.runs}
      channels={data.channels}
      now={live.now}
      none="Nothing yet. People act on a resource from its page, or from an incident on it."
    />
  </section>
</main>
