<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import AskedButton from '$lib/ui/forms/AskedButton.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import SummaryView from '$lib/ui/summary/SummaryView.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const acting = new Acting();
  useRefresh(live, ['summaries'], 'bussola:summaries');

  async function endLink(): Promise<void> {
    const ended = await acting.call('DELETE', `/summaries/${data.id}/link`, {}, 'The link was ended.');
    if (ended !== null) await invalidate('bussola:summaries');
  }
</script>

<svelte:head><title>{data.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-baseline gap-2">
    <h1>{data.name}: {data.title}</h1>
    <span class="text-quiet text-[14px]">as it was sent <Moment at={data.madeAt} now={live.now} />, {data.madeBy}</span>
    <span class="ml-auto flex gap-1 text-[13px]">
      <a class="btn" href="/summary">All summaries</a>
      <a class="btn" href="/api/v1/summaries/{data.id}?as=pdf" download>PDF</a>
      <a class="btn" href="/api/v1/summaries/{data.id}?as=csv" download>Numbers as CSV</a>
    </span>
  </div>
  <Outcome {acting} />
  {#if data.link !== null && data.linkUntil !== null}
    <p class="panel mb-2.5 flex-row! flex-wrap items-center gap-2 text-[13px]">
      <span class="min-w-0"
        >Anybody who has <a class="link break-all" href={data.link}>this address</a> reads it until <Moment
          at={data.linkUntil}
          now={live.now}
        />.</span
      >
      {#if mayEdit}<AskedButton
          label="End the link"
          question="Whoever has the address reads nothing any more. End it?"
          disabled={acting.busy}
          onConfirm={() => void endLink()}
        />{/if}
    </p>
  {/if}
  <SummaryView summary={data.summary} isInside />
</main>
