<script lang="ts">
  import { untrack } from 'svelte';
  import { followSystem, provideTheme, Theme } from '$lib/ui/chart/theme.svelte';
  import Rose from '$lib/ui/helm/Rose.svelte';
  import SummaryView from '$lib/ui/summary/SummaryView.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { provideReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const theme = provideTheme(new Theme());
  theme.night = untrack(() => data.night ?? false);
  followSystem(
    theme,
    untrack(() => data.night)
  );
  const zone = untrack(() => data.summary.zone);
  provideReader({
    ...{ zone, dates: { zone, locale: 'en' }, mayEdit: false, mayAdminister: false, personId: 0, teams: [] }
  });
</script>

<svelte:head><title>{data.name} · Bussola</title></svelte:head>
<header class="border-strong bg-panel flex h-12 shrink-0 items-center gap-3 border-b px-4">
  <Rose />
  <h1 class="truncate">{data.name}: {data.title}</h1>
  <span class="text-quiet ml-auto text-[13px] max-md:hidden"
    >{#if data.linkUntil !== null}to read only, until <Moment at={data.linkUntil} now={data.now} />{/if}</span
  >
</header>
<main class="mx-auto max-w-[1200px] px-[18px] py-3.5">
  <p class="mb-2 flex gap-2 text-[13px]">
    <a class="btn" href="/api/v1/read/{data.token}?as=pdf" download>PDF</a>
    <a class="btn" href="/api/v1/read/{data.token}?as=csv" download>Numbers as CSV</a>
  </p>
  <SummaryView summary={data.summary} isInside={false} />
</main>
