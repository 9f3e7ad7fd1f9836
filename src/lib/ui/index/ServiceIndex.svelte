<script lang="ts">
  import ConnectOffer from '../account/ConnectOffer.svelte';
  import Clock from '@lucide/svelte/icons/clock';
  import { page } from '$app/state';
  import type { Severity } from '$lib/core/alarm';
  import { isOwnService, serviceByKey } from '$lib/core/services';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { withRange } from '../time/shown';
  import { placeGroups, placeOf, serviceOf } from './places';

  interface Props {
    services: { service: string; resources: number; worst: Severity | null }[];
    /** The person's favourite boards. */
    favourites: readonly { id: number; title: string }[];
    counts: { raised: number; unconfirmed: number; troubled: number; failing: number };
  }
  let { services, counts, favourites }: Props = $props();
  /** Favourites that are listed: all else must fit as well. */
  const mostFavourites = 3;
  const path = $derived(page.url.pathname);
  const isOpen = (service: string) =>
    path.startsWith(`/services/${service}/`) || serviceOf(path, page.url.searchParams) === service;
  /** What Bussola measures of itself asks for a place only when something is raised there. */
  const shown = $derived(
    services.filter(({ service, worst }) => !isOwnService(service) || worst !== null || isOpen(service))
  );
  /** What needs attention at a place; nothing else is counted. */
  const notes = $derived<Readonly<Record<string, string>>>({
    Incidents: counts.raised > 0 ? `${counts.raised} open` : '',
    'On call': counts.unconfirmed > 0 ? `${counts.unconfirmed} unconfirmed` : '',
    Accounts: counts.failing + counts.troubled > 0 ? `${Math.max(counts.failing, counts.troubled)} to fix` : ''
  });
  const here = $derived(serviceOf(path, page.url.searchParams) !== null ? null : placeOf(path)?.place);
</script>

{#snippet row(href: string, here: boolean, name: string, note: string, sub = false)}
  <a
    href={withRange(href)}
    aria-current={here ? 'page' : undefined}
    class={[
      'flex h-[23px] items-center gap-2 pr-4 no-underline',
      sub ? 'text-quiet pl-[38px]' : 'pl-4',
      here && 'bg-shallow text-ink! font-semibold shadow-[inset_3px_0_var(--deep)]'
    ]}
  >
    <span class="truncate">{name}</span><span class="text-quiet ml-auto shrink-0 text-[12px] font-normal">{note}</span>
  </a>
{/snippet}

<nav
  class="border-strong bg-panel w-[216px] shrink-0 overflow-y-auto border-r py-2 text-[13.5px] max-md:order-last max-md:w-full max-md:border-t max-md:border-r-0"
  aria-label="Index"
>
  <a
    href={withRange('/')}
    aria-current={path === '/' ? 'page' : undefined}
    class={[
      'flex items-center gap-2 px-4 py-1.5 no-underline',
      path === '/' && 'bg-shallow font-semibold shadow-[inset_3px_0_var(--deep)]'
    ]}
  >
    <Clock size={14} />Watch<span class="text-quiet ml-auto text-[12px] font-normal"
      >{counts.raised > 0 ? `${counts.raised} raised` : 'nothing raised'}</span
    >
  </a>
  <h2 class="text-quiet px-4 pt-2 pb-0.5 text-[12px]! font-semibold!">Services</h2>
  {#each shown as { service, resources, worst } (service)}
    <a href={withRange(`/services/${service}/board`)} class="flex h-[23px] items-center gap-2 px-4 no-underline">
      <SeverityHoist severity={worst} />{serviceByKey(service).title}<span class="text-quiet num ml-auto text-[12px]"
        >{resources}</span
      >
    </a>
    {#if isOpen(service)}
      {@render row(`/services/${service}/board`, path === `/services/${service}/board`, 'Board', '', true)}
      {#if service === 'clusters'}{@render row('/clusters', path.startsWith('/clusters'), 'Parts', '', true)}{/if}
      {@render row(
        `/coverage?service=${service}`,
        path === '/coverage' && page.url.searchParams.get('service') === service,
        'Resources',
        '',
        true
      )}
      {@render row(
        `/bench?service=${service}`,
        path === '/bench' && page.url.searchParams.get('service') === service,
        'Metrics',
        '',
        true
      )}
      {@render row(
        `/alarms?service=${service}`,
        path === '/alarms' && page.url.searchParams.get('service') === service,
        'Alarms',
        '',
        true
      )}
      {@render row(
        `/logs?service=${service}`,
        path === '/logs' && page.url.searchParams.get('service') === service,
        'Logs',
        '',
        true
      )}
    {/if}
  {:else}
    <p class="text-quiet px-4 py-1">
      None yet. <ConnectOffer /> to find some.
    </p>
  {/each}
  {#each placeGroups as group, index (index)}
    <div class="border-line mt-1.5 border-t pt-1.5">
      {#each group as place (place.title)}
        {@const [first] = place.tabs}
        {#if first}{@render row(
            first.href,
            here === place && !favourites.some(({ id }) => path === `/boards/${id}`),
            place.title,
            notes[place.title] ?? ''
          )}{/if}
        {#if place.title === 'Boards'}
          {#each favourites.slice(0, mostFavourites) as { id, title } (id)}{@render row(
              `/boards/${id}`,
              path === `/boards/${id}`,
              title,
              '',
              true
            )}{/each}
        {/if}
      {/each}
    </div>
  {/each}
</nav>
