<script lang="ts">
  import ConnectorEditor from '$lib/ui/connector/ConnectorEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>{data.connector.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>{data.connector.name}</h1>
    <span class="text-quiet text-[13px]"
      >{#if data.accounts.length === 0}no account is read by it yet: <a
          class="link"
          href="/accounts/new?provider={data.connector.key}">connect one</a
        >{:else}read by it:
        {#each data.accounts as { id, name }, index (id)}{index > 0 ? ', ' : ''}<a class="link" href="/accounts/{id}"
            >{name}</a
          >{/each}{/if}</span
    >
  </div>
  {#key data.connector.id}<ConnectorEditor connector={data.connector} begin="" accounts={data.accounts} />{/key}
</main>
