<script lang="ts">
  import { page as address } from '$app/state';
  import { countOf } from '$lib/core/words/count';
  import AddressFilter from '$lib/ui/forms/AddressFilter.svelte';
  import { setParameters } from '$lib/ui/address';
  import ThisOperation from '$lib/ui/operations/ThisOperation.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const isFiltered = $derived(data.operations.length < data.count);
</script>

<svelte:head><title>API · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-x-3 gap-y-1">
    <h1>
      {countOf(data.operations.length, 'operation')}{#if isFiltered}&nbsp;of {data.count}{/if}
    </h1>
    <span class="text-quiet"
      >for programs, with a <a class="link" href="/receive">key</a>; described as OpenAPI 3.1 in
      <a class="link num" href="/api/v1/openapi.json" data-sveltekit-reload>openapi.json</a></span
    >
  </div>
  <AddressFilter
    textLabel="Text"
    placeholder="boards, acknowledge"
    selects={[
      {
        ...{ name: 'tag', label: 'About', none: 'Everything' },
        options: data.tags.map((tag) => ({ value: tag, text: tag }))
      }
    ]}
    allHref={isFiltered ? '/operations' : null}
  />
  <div class="flex items-start gap-2.5 max-md:flex-col-reverse">
    <section class="panel min-w-0 flex-1 max-md:w-full" aria-label="Operations">
      <table class="rows">
        <thead
          ><tr
            ><th>Operation</th><th>What it does</th>{#if data.shown === null}<th>Role</th><th>Scope of keys</th
              >{/if}</tr
          ></thead
        >
        <tbody>
          {#each data.operations as { name, method, path, summary, right, scope } (name)}
            {@const isChosen = address.url.searchParams.get('operation') === name}
            <tr class={isChosen ? 'bg-shallow' : ''} data-operation={name}>
              <td
                ><button
                  class="link num text-left text-[12px]"
                  aria-expanded={isChosen}
                  onclick={() => void setParameters({ operation: isChosen ? null : name })}
                  >{method}&nbsp;{#each path.split('/').slice(1) as part, at (at)}<wbr />/{part}{/each}</button
                ></td
              >
              <td class="text-[13px]">{summary}</td>
              {#if data.shown === null}
                <td class="text-quiet text-[13px] max-md:hidden">{right}</td>
                <td class="text-quiet text-[13px] max-md:hidden">{scope ?? 'none'}</td>
              {/if}
            </tr>
          {:else}
            <tr
              ><td colspan="4" class="text-quiet"
                >No operation has this in its name, path or description. <a class="link" href="/operations">Show all</a
                ></td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    </section>
    {#if data.shown !== null}
      <aside class="w-[440px] shrink-0 max-md:w-full" aria-label="The chosen operation">
        <ThisOperation operation={data.shown} origin={data.origin} />
      </aside>
    {/if}
  </div>
</main>
