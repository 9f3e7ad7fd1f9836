<script lang="ts">
  import { checkSentence } from '$lib/core/reachability';
  import { duration, peopleDuration } from '$lib/core/time';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import AttemptDetails from '$lib/ui/reachability/AttemptDetails.svelte';
  import CheckEditor from '$lib/ui/reachability/CheckEditor.svelte';
  import CheckMark from '$lib/ui/reachability/CheckMark.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  useRefresh(live, ['reachability'], 'bussola:checks');
  const { stored } = $derived(data);
  const { check, standing, last } = $derived(stored);
</script>

<svelte:head><title>{check.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-1 flex flex-wrap items-baseline gap-2">
    <h1>{check.name}</h1>
    <span class="text-[14px]"
      ><CheckMark state={check.enabled ? standing.state : null} />
      {#if check.enabled && standing.since !== null}<span class="text-quiet"
          >since <Moment at={standing.since} now={live.now} />, for {peopleDuration(
            duration(Math.max(0, live.now - standing.since))
          )}</span
        >{/if}</span
    >
    {#if data.resourceId !== null}<a class="btn ml-auto" href={withRange(`/resources/${data.resourceId}`)}>Charts</a
      >{/if}
  </div>
  <p class="text-quiet mb-3 text-[13px]">{checkSentence(check)}</p>
  <div class="grid grid-cols-5 items-start gap-2.5 max-lg:grid-cols-1">
    <div class="col-span-3 max-lg:col-span-1">
      {#key stored.id}<CheckEditor {stored} {check} />{/key}
    </div>
    <div class="col-span-2 flex flex-col gap-2.5 max-lg:col-span-1">
      <section class="panel" aria-label="Last attempt">
        <header><h2>Last attempt</h2></header>
        {#if last !== null}<AttemptDetails attempt={last} />
        {:else}<p class="text-quiet text-[13px]">
            {check.enabled ? 'The first attempt is about to be made.' : 'It is off: no attempt is made.'}
          </p>{/if}
      </section>
      <section class="panel" aria-label="Failures and changes">
        <header>
          <h2>Failures and changes</h2>
          <small>newest first</small>
        </header>
        {#each data.attempts as { attempt, state } (attempt.at)}
          <p class="border-line flex gap-2 border-b py-1 text-[13px] last:border-0">
            <Moment at={attempt.at} now={live.now} />
            <span class="min-w-0 flex-1 break-words">{attempt.problem ?? 'It answered as it should.'}</span>
            <CheckMark {state} />
          </p>
        {:else}<p class="text-quiet text-[13px]">No attempt has failed.</p>{/each}
      </section>
    </div>
  </div>
</main>
