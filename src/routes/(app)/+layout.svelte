<script lang="ts">
  import { flushSync, untrack } from 'svelte';
  import { afterNavigate, beforeNavigate, invalidate } from '$app/navigation';
  import { serviceByKey } from '$lib/core/services';
  import { hasRights } from '$lib/core/people/rights';
  import { provideTheme, Theme } from '$lib/ui/chart/theme.svelte';
  import Helm from '$lib/ui/helm/Helm.svelte';
  import ServiceIndex from '$lib/ui/index/ServiceIndex.svelte';
  import Shortcuts from '$lib/ui/keys/Shortcuts.svelte';
  import { page } from '$app/state';
  import { Live, provideLive, useRefresh } from '$lib/ui/live/live.svelte';
  import LogbookStrip from '$lib/ui/logbook/LogbookStrip.svelte';
  import { provideReader } from '$lib/ui/time/reader';
  import type { LayoutProps } from './$types';

  let { data, children }: LayoutProps = $props();
  const live = provideLive(new Live(...untrack(() => [data.overview.now, data.overview.version] as const)));
  const theme = provideTheme(new Theme());
  theme.night = untrack(() => data.night);
  /** The person's own zone, or UTC where the address says so. */
  const zone = $derived(page.url.searchParams.get('zone') === 'UTC' ? 'UTC' : data.person.zone);
  provideReader({
    get zone() {
      return zone;
    },
    mayEdit: untrack(() => hasRights(data.person.role, 'editor')),
    mayAdminister: untrack(() => hasRights(data.person.role, 'administrator')),
    personId: untrack(() => data.person.id)
  });

  $effect(() => live.open());
  useRefresh(live, ['alarm', 'account', 'outbox', 'mark'], 'bussola:overview');

  // What changed while the data of the next page were on their way may be missing from them.
  let versionBefore = 0;
  beforeNavigate(() => (versionBefore = live.version));
  afterNavigate(({ type }) => {
    if (type !== 'enter' && live.version !== versionBefore) void invalidate('bussola:overview');
  });

  /** Paper is white: what is printed is drawn by day, whatever the screen shows. */
  let nightOnScreen: boolean | null = null;
  function printing(begins: boolean): void {
    if (begins === (nightOnScreen !== null)) return; // browsers may say the same twice
    const night = nightOnScreen ?? false;
    nightOnScreen = begins ? theme.night : null;
    document.documentElement.classList.toggle('dark', night);
    flushSync(() => (theme.night = night));
  }

  function switchTheme(): void {
    theme.night = !theme.night;
    document.documentElement.classList.toggle('dark', theme.night);
    document.cookie = `theme=${theme.night ? 'night' : 'day'}; path=/; max-age=31536000; samesite=lax`;
  }

  const places = $derived([
    ...[
      'Watch|/',
      'Bench|/bench',
      'Signals|/signals',
      'Derived metrics|/derived',
      'Groups|/groups',
      'Boards|/boards',
      'Keys|/receive',
      'Alarms|/alarms',
      'Incidents|/incidents',
      'Channels|/channels',
      'Intake|/intake',
      'Coverage|/coverage',
      'Store|/store',
      'Accounts|/accounts'
    ].map((place) => {
      const [title = '', href = ''] = place.split('|');
      return { title, href, kind: 'page' };
    }),
    ...['watch', ...data.overview.services.map(({ service }) => service)].map((service) => ({
      title: `${service === 'watch' ? 'Watch' : serviceByKey(service).title} board`,
      kind: 'ready board',
      href: `/services/${service}/board`
    })),
    ...data.boards.map(({ id, title }) => ({ title, kind: 'board', href: `/boards/${id}` })),
    ...data.overview.findable
  ]);
</script>

<svelte:window onbeforeprint={() => printing(true)} onafterprint={() => printing(false)} />
<div class="flex h-full flex-col">
  <a class="btn btn-main sr-only fixed! top-1 left-1 z-50 focus:not-sr-only" href="#sheet" data-around
    >Skip to the sheet</a
  >
  {#if 'board' in page.data}<a
      class="btn btn-main sr-only fixed! top-1 left-1 z-50 focus:not-sr-only"
      href="#panels"
      data-around>Skip to the panels</a
    >{/if}
  <div class="contents" data-around>
    <Helm
      workspace="Corallo Lines"
      person={data.person}
      newest={data.overview.newest}
      {places}
      night={theme.night}
      onTheme={switchTheme}
    />
    <LogbookStrip
      span={data.overview.logbook}
      incidents={data.overview.logbook.incidents}
      marks={data.overview.logbook.marks}
    />
  </div>
  <div class="flex min-h-0 flex-1 max-md:flex-col max-md:overflow-y-auto">
    <div class="contents" data-around>
      <ServiceIndex
        services={data.overview.services}
        counts={data.overview.counts}
        favourites={data.boards.filter(({ isFavourite }) => isFavourite)}
      />
    </div>
    <span id="sheet" tabindex="-1"></span>
    <!-- Another thing of the same kind, or another zone, is another page: nothing of the one before is kept. -->
    {#key `${zone} ${page.url.pathname}`}{@render children()}{/key}
  </div>
</div>
<Shortcuts />
