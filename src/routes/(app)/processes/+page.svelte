<script lang="ts">
  import { invalidateAll } from '$app/navigation';
  import { countOf } from '$lib/core/words/count';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();

  const living = $derived(data.processes.filter(({ lives }) => lives));
  const engines = $derived(living.filter(({ role }) => role !== 'web').length);
  const words = { web: 'serves people and programs', engine: 'works by itself', all: 'serves and works' } as const;
  /** From so many on, accounts are counted, not named. */
  const mostNamed = 6;
</script>

<svelte:head><title>Processes · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-baseline gap-2">
    <h1>
      {#if living.length === 1 && engines === 1}One process does everything{:else}{countOf(
          living.length,
          'process',
          'processes'
        )}, {engines === 0 ? 'no engine' : countOf(engines, 'engine')} among them{/if}
    </h1>
    <button class="btn ml-auto" onclick={() => void invalidateAll()}>Look again</button>
  </div>
  {#each data.faults as { what, why } (what)}
    <p class="mb-2"><b>{what}:</b> {why}.</p>
  {/each}
  <section class="panel" aria-label="Processes">
    <header>
      <h2>Processes</h2>
      <small>on this database: those that live, and those that ended without a word within the last hour</small>
    </header>
    <div class="overflow-x-auto">
      <table class="rows">
        <thead
          ><tr
            ><th>Name</th><th>What it is for</th><th>Machine</th><th>Version</th><th>Since</th><th>Last seen</th><th
              >What it does now</th
            ></tr
          ></thead
        >
        <tbody>
          {#each data.processes as { instance, role, host, version, startedAt, seenAt, lives, answers, accounts, does } (`${instance} ${startedAt}`)}
            <tr>
              <td class="whitespace-nowrap"
                ><b>{instance}</b>{#if answers}<small class="text-quiet ml-1.5">answers you</small>{/if}</td
              >
              <td class="whitespace-nowrap">{words[role]}</td>
              <td>{host}</td>
              <td class="num">{version}</td>
              <td><Moment at={startedAt} now={live.now} /></td>
              <td class={['whitespace-nowrap', !lives && 'font-bold']}
                >{#if lives}just now{:else}<Moment at={seenAt} now={live.now} />{/if}</td
              >
              <td class="min-w-[220px]">
                {#if !lives}nothing: it ended without a word{:else if role === 'web'}answers{:else}
                  {accounts.length === 0
                    ? 'reads no account'
                    : accounts.length > mostNamed
                      ? `reads ${accounts.length} accounts`
                      : `reads ${accounts.join(', ')}`}{#if does.length > 0}; {does.join(', ')}{/if}
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  </section>
</main>
