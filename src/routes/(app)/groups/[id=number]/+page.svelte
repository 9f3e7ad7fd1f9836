<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import { page } from '$app/state';
  import BoardSheet from '$lib/ui/board/sheet/BoardSheet.svelte';
  import { PanelViews } from '$lib/ui/board/data/panel-view.svelte';
  import { thingsOf } from '$lib/ui/board/data/board-context.svelte';
  import GroupEditor from '$lib/ui/group/GroupEditor.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import ResourceMargin from '$lib/ui/margin/ResourceMargin.svelte';
  import { setParameters } from '$lib/ui/address';
  import { withRange } from '$lib/ui/time/shown';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data, form: told }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const views = new PanelViews();
  useRefresh(live, ['alarm'], 'bussola:board');
  let editing = $state(false);
  const opened = $derived(Number(page.url.searchParams.get('resource')) || null);

  const things = $derived(thingsOf(data));
</script>

<svelte:head><title>{data.name} · Bussola</title></svelte:head>
<main class="@container min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>{data.name}</h1>
    <span class="text-quiet">group of {countOf(data.members, 'resource')}</span>
    {#if data.uses.length > 0}<span class="text-quiet">used by {data.uses.map(({ name }) => name).join(', ')}</span
      >{/if}
    {#if mayEdit && data.alarmSignal !== null}<a
        class="btn ml-auto"
        href={withRange(
          `/alarms/new?signal=${encodeURIComponent(JSON.stringify(data.alarmSignal))}&title=${encodeURIComponent(data.name)}`
        )}>Make an alarm</a
      >{/if}
    <button
      class={['btn', (!mayEdit || data.alarmSignal === null) && 'ml-auto']}
      aria-expanded={editing}
      onclick={() => (editing = !editing)}
      >{editing ? 'Close the rule' : mayEdit ? 'Change the rule' : 'See the rule'}</button
    >
  </div>
  {#if editing}
    <div class="mb-4">
      <GroupEditor form={data.form} stored={data.stored} labels={data.labels} save="Save the rule">
        {#snippet extra()}
          <button class="btn ml-auto" formaction="?/remove" formnovalidate disabled={data.uses.length > 0}
            >Remove the group</button
          >
        {/snippet}
      </GroupEditor>
      {#if told && 'problem' in told}<p class="fault" role="alert">{told.problem}</p>{/if}
    </div>
  {/if}
  {#if data.board.panels.length === 0}
    <div class="panel items-start gap-2 p-6!">
      <h2>{data.members === 0 ? 'Nothing fits the rule at present.' : 'Nothing in it has a metric to draw.'}</h2>
      <p class="text-quiet">
        {data.members === 0
          ? 'Resources that appear later and fit belong to it at once.'
          : 'See whether its resources are collected.'}
        <a class="link" href="/coverage">See what is collected</a>
      </p>
    </div>
  {:else}
    <BoardSheet board={data.board} metrics={data.metrics} {things} {views} />
  {/if}
</main>
{#if opened !== null}<ResourceMargin resourceId={opened} onClose={() => setParameters({ resource: null })} />{/if}
