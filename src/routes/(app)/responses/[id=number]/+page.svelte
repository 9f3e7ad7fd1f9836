<script lang="ts">
  import { responseSentence } from '$lib/core/response';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import ResponseEditor from '$lib/ui/response/ResponseEditor.svelte';
  import RunList from '$lib/ui/response/RunList.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  useRefresh(live, ['responses'], 'bussola:responses');
  const stored = $derived(data.stored);
</script>

<svelte:head><title>{stored.response.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-2">
    <h1>{stored.response.name}</h1>
    <span class="text-quiet text-[14px]"
      >{responseSentence(stored.response, (id) => data.channels[id] ?? `channel ${id}`)}</span
    >
  </div>
  {#if stored.stoppedAt !== null}<p class="fault mb-2" role="status">
      It stopped <Moment at={stored.stoppedAt} now={live.now} />: {stored.stoppedWhy} Save it to let it act again.
    </p>{/if}
  <div class="max-w-[980px]">
    {#key stored.id}<ResponseEditor
        {stored}
        response={stored.response}
        alarms={data.alarms}
        groups={data.groups}
        webhooks={data.webhooks}
      />{/key}
    <section class="panel" aria-label="What it did">
      <header>
        <h2>What it did</h2>
        <small>newest first</small>
      </header>
      <RunList runs={data.runs} channels={data.channels} now={live.now} none="Nothing yet." />
    </section>
  </div>
</main>
