<script lang="ts">
  import ConnectOffer from '../account/ConnectOffer.svelte';
  import Clock from '@lucide/svelte/icons/clock';
  import { page } from '$app/state';
  import type { Severity } from '$lib/core/alarm';
  import { serviceByKey } from '$lib/core/services';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { withRange } from '../time/shown';

  interface Props {
    services: { service: string; resources: number; worst: Severity | null }[];
    /** Boards that the person keeps at hand. */
    favourites: readonly { id: number; title: string }[];
    counts: { raised: number; alarms: number; unconfirmed: number; troubled: number; failing: number };
  }
  let { services, counts, favourites }: Props = $props();
  const path = $derived(page.url.pathname);
  const isOpen = (service: string) =>
    path.startsWith(`/services/${service}/`) || page.url.searchParams.get('service') === service;
  const rooms = $derived([
    { href: '/bench', name: 'Bench', note: '' },
    { href: '/boards', name: 'Boards', note: '' },
    { href: '/signals', name: 'Signals', note: '' },
    { href: '/derived', name: 'Derived metrics', note: '' },
    { href: '/groups', name: 'Groups', note: '' },
    { href: '/alarms', name: 'Alarms', note: counts.alarms > 0 ? `${counts.alarms}` : '' },
    { href: '/incidents', name: 'Incidents', note: counts.raised > 0 ? `${counts.raised} open` : '' },
    { href: '/channels', name: 'Channels', note: counts.unconfirmed > 0 ? `${counts.unconfirmed} unconfirmed` : '' },
    { href: '/intake', name: 'Intake', note: counts.failing > 0 ? `${counts.failing} to mend` : '' },
    { href: '/store', name: 'Store', note: '' },
    { href: '/accounts', name: 'Accounts', note: counts.troubled > 0 ? `${counts.troubled} needs care` : '' }
  ]);
</script>

{#snippet row(href: string, here: boolean, name: string, note: string, sub = false)}
  <a
    href={withRange(href)}
    aria-current={here ? 'page' : undefined}
    class={[
      'flex items-center gap-2 py-1 pr-4 no-underline',
      sub ? 'text-quiet pl-[38px]' : 'pl-4',
      here && 'bg-shallow text-ink! font-semibold shadow-[inset_3px_0_var(--deep)]'
    ]}
  >
    {name}<span class="text-quiet ml-auto text-[12px] font-normal">{note}</span>
  </a>
{/snippet}

<nav
  class="border-strong bg-panel w-[216px] shrink-0 overflow-y-auto border-r py-2.5 text-[13.5px] max-md:order-last max-md:w-full max-md:border-t max-md:border-r-0"
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
  <h2 class="text-quiet px-4 pt-3 pb-1 text-[12px]! font-semibold!">Services</h2>
  {#each services as { service, resources, worst } (service)}
    <a href={withRange(`/services/${service}/board`)} class="flex items-center gap-2 px-4 py-1 no-underline">
      <SeverityHoist severity={worst} />{serviceByKey(service).title}<span class="text-quiet num ml-auto text-[12px]"
        >{resources}</span
      >
    </a>
    {#if isOpen(service)}
      {@render row(`/services/${service}/board`, path === `/services/${service}/board`, 'Board', '', true)}
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
    {/if}
  {:else}
    <p class="text-quiet px-4 py-1">
      None yet. <ConnectOffer /> to find some.
    </p>
  {/each}
  <h2 class="text-quiet px-4 pt-3 pb-1 text-[12px]! font-semibold!">Workspace</h2>
  {#each rooms as { href, name, note } (href)}
    {@render row(
      href,
      href === '/boards' ? path === href : path.startsWith(href) && !page.url.searchParams.has('service'),
      name,
      note
    )}
    {#if href === '/boards'}
      {#each favourites as { id, title } (id)}{@render row(
          `/boards/${id}`,
          path === `/boards/${id}`,
          title,
          '',
          true
        )}{/each}
    {/if}
  {/each}
</nav>
