<script lang="ts">
  import { page as address } from '$app/state';
  import { severities } from '$lib/core/alarm';
  import { serviceByKey } from '$lib/core/services';
  import AddressFilter from '$lib/ui/forms/AddressFilter.svelte';
  import IncidentRow from '$lib/ui/alarm/IncidentRow.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const pages = $derived(Math.max(1, Math.ceil(data.openInAll / data.perPage)));
  const first = $derived((data.page - 1) * data.perPage + 1);
  const onPage = $derived(data.groups.reduce((sum, { incidents }) => sum + incidents.length, 0));

  type Group = PageProps['data']['groups'][number];
  const reasons = {
    resource: 'on the same resource',
    account: 'in an account that sends nothing',
    minute: 'raised in the same minute'
  };
  const relatedText = (incidents: Group['incidents'], why: Group['why'], size: number): string =>
    `${size} that may have one cause: ${why.map((one) => reasons[one]).join(', ')}${incidents.length < size ? `; ${incidents.length} on this page` : ''}`;

  const isFiltered = $derived(Object.values(data.filter).some((value) => value !== null));
  const selects = $derived([
    {
      ...{ name: 'severity', label: 'Severity', none: 'any severity' },
      options: severities.toReversed().map((name) => ({ value: name, text: name }))
    },
    {
      ...{ name: 'service', label: 'Service', none: 'any service' },
      options: data.overview.services.map(({ service }) => ({ value: service, text: serviceByKey(service).title }))
    },
    {
      ...{ name: 'attention', label: 'Who looks after it', none: 'looked after or not' },
      options: [
        { value: 'nobody', text: 'nobody looks after it' },
        { value: 'somebody', text: 'somebody looks after it' },
        { value: 'shelved', text: 'shelved' }
      ]
    }
  ]);

  function pageHref(number: number): string {
    const search = new URLSearchParams(address.url.searchParams);
    search.set('page', String(number));
    return `/incidents?${search}`;
  }
</script>

<svelte:head><title>Incidents · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">
    Incidents <span class="text-quiet text-[14px] font-normal"
      >{data.openInAll} open, {data.closed.length} closed in the shown range</span
    >
  </h1>
  <AddressFilter
    textLabel="Find in incidents"
    placeholder="resource or alarm"
    {selects}
    without={['page']}
    allHref={isFiltered ? '/incidents' : null}
  />
  <section class="panel mb-2.5" aria-label="Open">
    <header>
      <h2>Open</h2>
      {#if pages > 1}<small>what nobody looks after first, {first} to {first + onPage - 1} of {data.openInAll}</small
        >{/if}
    </header>
    {#if data.groups.length > 0}
      <table class="rows">
        {#each data.groups as { incidents, why, size } (incidents[0]?.id)}
          <tbody class={[size > 1 && 'related']}>
            {#if size > 1}<tr>
                <th colspan="6" scope="rowgroup" class="text-quiet text-left text-[12px] font-normal"
                  >{relatedText(incidents, why, size)}</th
                >
              </tr>{/if}
            {#each incidents as incident (incident.id)}<IncidentRow {incident} now={live.now} />{/each}
          </tbody>
        {/each}
      </table>
    {:else}<p class="text-quiet text-[13px]">{data.page > 1 ? 'None on this page.' : 'None.'}</p>{/if}
    {#if pages > 1}
      <nav class="mt-2 flex gap-2 text-[13px]" aria-label="Pages of open incidents">
        {#if data.page > 1}<a class="btn" href={pageHref(data.page - 1)}>Previous</a>{/if}
        <span class="text-quiet self-center">page {data.page} of {pages}</span>
        {#if data.page < pages}<a class="btn" href={pageHref(data.page + 1)}>Next</a>{/if}
      </nav>
    {/if}
  </section>
  <section class="panel mb-2.5" aria-label="Closed">
    <header>
      <h2>Closed</h2>
      {#if data.isCut}<small>the newest of the shown range</small>{/if}
    </header>
    {#if data.closed.length > 0}
      <table class="rows">
        <tbody
          >{#each data.closed as incident (incident.id)}<IncidentRow {incident} now={live.now} />{/each}</tbody
        >
      </table>
    {:else}<p class="text-quiet text-[13px]">None. Show a longer range to look farther back.</p>{/if}
  </section>
</main>
