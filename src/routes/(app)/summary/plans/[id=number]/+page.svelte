<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import PlanEditor from '$lib/ui/summary/PlanEditor.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const acting = new Acting();
  useRefresh(live, ['summaries'], 'bussola:summaries');

  async function sendNow(): Promise<void> {
    const sent = await acting.call<{ channels: number }>('POST', `/summary-plans/${data.stored.id}/send`, {});
    if (sent === null) return;
    const { channels } = sent.answer;
    acting.done =
      channels === 0
        ? 'It was sent to nobody: none of its channels is confirmed.'
        : `It was sent to ${countOf(channels, 'channel')}.`;
  }
</script>

<svelte:head><title>{data.stored.plan.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex max-w-[720px] flex-wrap items-baseline gap-2">
    <h1>{data.stored.plan.name}</h1>
    <span class="text-quiet text-[14px]"
      >{#if data.stored.nextAt === null}off{:else}sent next <Moment at={data.stored.nextAt} now={live.now} />{/if}</span
    >
    {#if mayEdit}<button class="btn ml-auto" disabled={acting.busy} onclick={() => void sendNow()}
        >Send the newest now</button
      >{/if}
  </div>
  <Outcome {acting} />
  <PlanEditor stored={data.stored} given={data.stored.plan} channels={data.channels} />
</main>
