<script lang="ts">
  import { goto } from '$app/navigation';
  import { graver, type Severity } from '$lib/core/alarm';
  import { isClusterPart } from '$lib/core/clusters';
  import { serviceByKey } from '$lib/core/services';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import BoardSheet from '$lib/ui/board/sheet/BoardSheet.svelte';
  import { copyOf } from '$lib/ui/board/share/copy-board';
  import { PanelViews } from '$lib/ui/board/data/panel-view.svelte';
  import { thingsOf } from '$lib/ui/board/data/board-context.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import ActOn from '$lib/ui/response/ActOn.svelte';
  import RunList from '$lib/ui/response/RunList.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const views = new PanelViews();
  let problem = $state('');
  useRefresh(live, ['alarm', 'account', 'responses'], 'bussola:board');
  const resource = $derived(data.resource);
  const incidents = $derived(
    data.overview.logbook.incidents.filter(
      (incident) => incident.resource === resource.name && incident.account === resource.account
    )
  );
  const worst = $derived(
    incidents
      .filter(({ closedAt }) => closedAt === null)
      .reduce<Severity | null>((most, { severity }) => graver(most, severity), null)
  );
  const things = $derived({ ...thingsOf(data), incidents });

  async function copy(): Promise<void> {
    const made = await copyOf(data.board);
    if ('id' in made) await goto(withRange(`/boards/${made.id}?edit`));
    else problem = made.problem;
  }
</script>

<svelte:head><title>{resource.name} · Bussola</title></svelte:head>
<main class="@container min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1">
    <SeverityHoist severity={worst} />
    <h1>{resource.name}</h1>
    <span class="text-quiet text-[13px]"
      >{resource.type} of
      <a class="link" href={withRange(`/services/${resource.service}/board`)}>{serviceByKey(resource.service).title}</a>
      in {resource.account}{resource.region === '' ? '' : `, ${resource.region}`}{resource.endedAt === null
        ? ''
        : ', ended'}; last seen
      <Moment at={resource.lastSeenAt} now={live.now} /></span
    >
    <span class="ml-auto flex gap-2">
      {#if isClusterPart(resource)}<a class="btn" href={withRange(`/clusters/${resource.id}`)}>In its cluster</a>{/if}
      {#if resource.type === 'check'}<a
          class="btn"
          href={withRange(`/${resource.providerId.replace('check/', 'checks/')}`)}>The check</a
        >{/if}
      {#if mayEdit}<button class="btn" onclick={copy}>Make a board of it</button>{/if}
    </span>
  </div>
  {#if problem}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  {#if data.actsOn !== null}<div class="mb-2 flex flex-wrap items-center gap-2">
      <ActOn resource={data.actsOn} depends="bussola:board" />
    </div>{/if}
  {#if data.runs.length > 0}<section class="panel mb-2.5" aria-label="What was done with it">
      <header>
        <h2>What was done with it</h2>
        <small>from here, newest first</small>
      </header>
      <RunList runs={data.runs} channels={data.channels} now={live.now} none="" />
    </section>{/if}
  <div class="mb-3 grid grid-cols-3 gap-2.5 @max-[760px]:grid-cols-1">
    <section class="panel" aria-label="Alarms">
      <header>
        <h2>Alarms</h2>
        <small>that watch it</small>
      </header>
      <ul class="max-h-[110px] overflow-y-auto text-[13px]">
        {#each data.states as { alarmId, alarm, state, since } (alarmId)}
          <li class="flex gap-2 py-0.5">
            <a class="link truncate" href={withRange(`/alarms/${alarmId}`)}>{alarm}</a>
            <span class="text-quiet ml-auto whitespace-nowrap">{state} since <Moment at={since} now={live.now} /></span>
          </li>
        {:else}<li class="text-quiet">No alarm watches it: make one from a panel below.</li>{/each}
      </ul>
    </section>
    <section class="panel" aria-label="Raised">
      <header>
        <h2>Raised</h2>
        <small>within 14 days</small>
      </header>
      <ul class="max-h-[110px] overflow-y-auto text-[13px]">
        {#each incidents as { id, alarm, severity, openedAt, closedAt } (id)}
          <li class="flex items-center gap-2 py-0.5">
            <SeverityHoist {severity} />
            <a class="link truncate" href={withRange(`/incidents/${id}`)}>{alarm}</a>
            <span class="text-quiet ml-auto whitespace-nowrap"
              >{closedAt === null ? 'since' : 'from'} <Moment at={openedAt} now={live.now} /></span
            >
          </li>
        {:else}<li class="text-quiet">Nothing was raised.</li>{/each}
      </ul>
    </section>
    <section class="panel" aria-label="Events">
      <header>
        <h2>Events</h2>
        <small>from its provider, in the last 14 days</small>
      </header>
      <ul class="max-h-[110px] overflow-y-auto text-[13px]">
        {#each data.events as { id, at, text } (id)}
          <li class="flex gap-2 py-0.5">
            <span class="min-w-0">{text}</span>
            <span class="text-quiet ml-auto whitespace-nowrap"><Moment {at} now={live.now} /></span>
          </li>
        {:else}<li class="text-quiet">No events.</li>{/each}
      </ul>
    </section>
  </div>
  <BoardSheet board={data.board} metrics={data.metrics} {things} {views} />
</main>
