<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { mayAdminister } = useReader();
  const live = useLive();
</script>

<svelte:head><title>Connectors · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>Connectors</h1>
    <span class="text-quiet text-[13px]">providers that a file describes</span>
    {#if mayAdminister && data.connectors.length > 0}<a class="btn btn-main ml-auto" href="/connectors/new"
        >Write a connector</a
      >{/if}
  </div>
  {#if data.connectors.length === 0}
    <div class="panel max-w-[80ch] items-start gap-2 p-6!">
      <h2>No connector is written yet.</h2>
      <p class="text-quiet">
        A connector describes a provider that Bussola does not know: how to sign in, how to request resources, metrics,
        samples, events, lines and bills, and what they are here. It is a file; nothing is compiled.
      </p>
      {#if mayAdminister}<a class="btn btn-main" href="/connectors/new">Write a connector</a>{:else}<p>
          Connectors are written by administrators.
        </p>{/if}
    </div>
  {:else}
    <section class="panel" aria-label="Connectors">
      <table class="rows">
        <thead><tr><th>Connector</th><th>Key</th><th>Accounts</th><th>Recordings</th><th>Changed</th></tr></thead>
        <tbody>
          {#each data.connectors as { id, key, name, accounts, recordings, changedAt, changedBy } (id)}
            <tr>
              <td
                >{#if mayAdminister}<a class="link" href="/connectors/{id}">{name}</a>{:else}{name}{/if}</td
              >
              <td class="num">{key}</td>
              <td
                >{#if accounts > 0}{countOf(accounts, 'account')}{:else if mayAdminister}<a
                    class="link"
                    href="/accounts/new?provider={key}">Connect an account</a
                  >{:else}none{/if}</td
              >
              <td class="num">{recordings}</td>
              <td class="text-quiet whitespace-nowrap"><Moment at={changedAt} now={live.now} /> by {changedBy}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
  {/if}
</main>
