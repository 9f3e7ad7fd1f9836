<script lang="ts">
  import { flushSync, untrack } from 'svelte';
  import { afterNavigate, beforeNavigate, goto, invalidate } from '$app/navigation';
  import { serviceByKey } from '$lib/core/services';
  import { hasRights } from '$lib/core/people/rights';
  import { followSystem, provideTheme, Theme } from '$lib/ui/chart/theme.svelte';
  import { day, hour, spokenDuration, times } from '$lib/core/time';
  import { callApi, wordsOf } from '$lib/ui/api';
  import Helm from '$lib/ui/helm/Helm.svelte';
  import type { Destination } from '$lib/ui/helm/destination';
  import { placeGroups } from '$lib/ui/index/places';
  import PlaceTabs from '$lib/ui/index/PlaceTabs.svelte';
  import { showRange, withRange } from '$lib/ui/time/shown';
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
  theme.night = untrack(() => data.night ?? false);
  followSystem(
    theme,
    untrack(() => data.night)
  );
  const mayEdit = untrack(() => hasRights(data.person.role, 'editor'));
  /** The person's own zone, or UTC where the address says so. */
  const zone = $derived(page.url.searchParams.get('zone') === 'UTC' ? 'UTC' : data.person.zone);
  provideReader({
    get zone() {
      return zone;
    },
    get dates() {
      return { zone, locale: data.person.dateLocale };
    },
    mayEdit,
    mayAdminister: untrack(() => hasRights(data.person.role, 'administrator')),
    personId: untrack(() => data.person.id),
    get teams() {
      return data.teams;
    }
  });

  $effect(() => live.open());
  useRefresh(live, ['alarm', 'account', 'outbox', 'mark', 'routing'], 'bussola:overview');

  // What changed while the data of the next page were on their way may be missing from them.
  let versionBefore = 0;
  beforeNavigate(() => (versionBefore = live.version));
  afterNavigate(({ type }) => {
    if (type !== 'enter' && live.version !== versionBefore) live.refresh('bussola:overview');
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

  /** Open incidents that the palette offers to acknowledge: the gravest. */
  const mostToAcknowledge = 5;

  /** Why what the palette was to do could not be done. */
  let problem = $state('');

  /** Notes that the reader looks after an incident, and shows it. */
  async function acknowledge(id: number): Promise<void> {
    const reply = await callApi('POST', `/incidents/${id}/acknowledge`);
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    await goto(withRange(`/incidents/${id}`));
    await invalidate('bussola:overview');
  }

  /** What the palette does rather than finds. */
  const actions: Destination[] = $derived([
    ...(mayEdit
      ? [
          { title: 'New alarm', kind: 'action', href: '/alarms/new' },
          { title: 'New board', kind: 'action', href: '/boards?new' },
          { title: 'New group', kind: 'action', href: '/groups/new' }
        ]
      : []),
    ...(mayEdit
      ? data.overview.open
          .filter(({ acknowledgedAt }) => acknowledgedAt === null)
          .slice(0, mostToAcknowledge)
          .map(({ id, alarm, subject }) => ({
            title: `Acknowledge ${alarm.toLowerCase()} on ${subject}`,
            kind: 'action',
            run: () => void acknowledge(id)
          }))
      : []),
    { title: theme.night ? 'Switch to the day theme' : 'Switch to the night theme', kind: 'action', run: switchTheme },
    ...[hour, times(3, hour), day, times(7, day)].map((length) => ({
      title: `Show the last ${spokenDuration(length)}`,
      kind: 'range',
      run: () => void showRange({ kind: 'live', length })
    }))
  ]);
  const places: Destination[] = $derived([
    ...actions,
    { title: 'Watch', href: '/', kind: 'page' },
    ...placeGroups
      .flat()
      .flatMap(({ tabs }) =>
        tabs
          .filter(({ right = 'viewer' }) => hasRights(data.person.role, right))
          .map(({ title, href }) => ({ title, href, kind: 'page' }))
      ),
    { title: 'Profile', href: '/profile', kind: 'page' },
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
{#if problem}
  <p class="panel fault fixed! top-14 left-1/2 z-40 flex -translate-x-1/2 flex-row! items-center gap-3" role="alert">
    {problem} <button class="btn" onclick={() => (problem = '')}>Close</button>
  </p>
{/if}
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
      onCall={data.overview.onCall}
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
    <div class="flex min-h-0 min-w-0 flex-1 flex-col max-md:contents">
      <div class="contents" data-around><PlaceTabs /></div>
      <span id="sheet" tabindex="-1"></span>
      <div class="flex min-h-0 min-w-0 flex-1 max-md:contents">
        <!-- Another thing of the same kind, or another zone, is another page: nothing of the one before stays. -->
        {#key `${zone} ${page.url.pathname}`}{@render children()}{/key}
      </div>
    </div>
  </div>
</div>
<Shortcuts />
