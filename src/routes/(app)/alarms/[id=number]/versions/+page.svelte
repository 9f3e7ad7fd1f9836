<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { callApi, wordsOf } from '$lib/ui/api';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  let problem = $state('');
  let isBusy = $state(false);

  async function restore(version: number): Promise<void> {
    isBusy = true;
    const reply = await callApi('POST', `/alarms/${data.id}/versions/${version}/restore`);
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    await invalidate('bussola:overview');
    isBusy = false;
  }
</script>

<svelte:head><title>Versions of {data.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>Versions</h1>
    <a class="link" href={withRange(`/alarms/${data.id}`)}>{data.name}</a>
    <span class="text-quiet text-[13px]">restoring makes a new version, so that it can be taken back as well</span>
  </div>
  {#if problem}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  <section class="panel" aria-label="Versions">
    <table class="rows">
      <thead><tr><th class="right">Version</th><th>What became different</th><th>When</th><th></th></tr></thead>
      <tbody>
        {#each data.versions as { version, at, by, differences } (version)}
          <tr data-version={version}>
            <td class="right num align-top">{version}</td>
            <td
              >{#each differences as difference, index (index)}<p>{difference}</p>{:else}<p class="text-quiet">
                  Nothing.
                </p>{/each}</td
            >
            <td class="text-quiet align-top whitespace-nowrap"><Moment {at} now={live.now} /> by {by}</td>
            <td class="right align-top"
              >{#if version === data.version}<span class="text-quiet">in force</span>{:else if mayEdit}<button
                  class="btn"
                  disabled={isBusy}
                  onclick={() => void restore(version)}>Restore</button
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </section>
</main>
