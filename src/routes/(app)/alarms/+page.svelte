<script lang="ts">
  import { replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { alarmViews, severities, type AlarmView } from '$lib/core/alarm';
  import { serviceByKey, serviceOrder } from '$lib/core/services';
  import { before, day, times } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import AlarmRows from '$lib/ui/alarm/AlarmRows.svelte';
  import BulkBar from '$lib/ui/alarm/BulkBar.svelte';
  import UnwatchedResources from '$lib/ui/alarm/UnwatchedResources.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const reader = useReader();
  const { mayEdit } = reader;
  const viewNames: Readonly<Record<AlarmView, string>> = {
    raised: 'Raised',
    flapping: 'Flapping',
    unheeded: 'Nobody acts on',
    never: 'Never raised',
    always: 'Always raised',
    off: 'Switched off'
  };
  const viewHelp: Readonly<Record<AlarmView, string>> = {
    raised: 'Raised at present.',
    flapping:
      'Raised again within an hour of clearing, three times or more in 30 days. A clearing threshold, or a longer window, calms it.',
    unheeded:
      'Raised for more than a day and acknowledged by nobody, or raised five times in 30 days with nobody notified.',
    never:
      'Not raised in 30 days, although it has watched for two weeks or more. Is its threshold one that trouble reaches?',
    always: 'Raised half of the last 30 days or more: that is how things usually are.',
    off: 'Not judged until they are switched on again.'
  };

  let typed = $state<string | null>(null);
  /** The filters of the address, with what is typed: that comes into the address without the page being read anew. */
  const given = $derived.by(() => {
    const all = new URLSearchParams(page.url.searchParams);
    if (typed !== null && typed !== '') all.set('text', typed);
    else if (typed === '') all.delete('text');
    return all;
  });
  const view = $derived(given.get('view') ?? '');
  const isUnwatched = $derived(view === 'unwatched');
  const shownView = $derived(alarmViews.find((one) => one === view));
  const asked = (name: string) => given.get(name) ?? '';
  const text = $derived(asked('text'));
  const words = $derived(text.trim().toLowerCase().split(/\s+/).filter(Boolean));
  type Listed = (typeof data.alarms)[number];
  const stateOf = ({ enabled, raised, indeterminate }: Listed) =>
    !enabled ? 'off' : raised > 0 ? 'raised' : indeterminate > 0 ? 'indeterminate' : 'clear';

  /** What the filters leave, before the view. */
  const filtered = $derived(
    data.alarms.filter((alarm) => {
      const all = [alarm.name, alarm.sentence, alarm.owner, ...Object.entries(alarm.labels).flat()]
        .join(' ')
        .toLowerCase();
      return (
        words.every((word) => all.includes(word)) &&
        (asked('state') === '' || stateOf(alarm) === asked('state')) &&
        (asked('severity') === '' || alarm.severity === asked('severity')) &&
        (asked('service') === '' || alarm.services.includes(asked('service'))) &&
        (asked('owner') === '' || (asked('owner') === '-' ? alarm.owner === '' : alarm.owner === asked('owner')))
      );
    })
  );
  const shown = $derived(shownView ? filtered.filter(({ views }) => views.includes(shownView)) : filtered);
  const unwatched = $derived(
    data.unwatched.filter(({ service }) => asked('service') === '' || service === asked('service'))
  );
  const owners = $derived(
    [
      ...new Set([...data.alarms.map(({ owner }) => owner).filter(Boolean), ...reader.teams.map(({ name }) => name)])
    ].sort()
  );
  const services = $derived(
    [...new Set(data.alarms.flatMap((alarm) => alarm.services))].sort((a, b) => serviceOrder(a) - serviceOrder(b))
  );
  const isFiltered = $derived(
    ['text', 'state', 'severity', 'service', 'owner', 'view'].some((name) => asked(name) !== '')
  );

  let chosen = $state.raw<readonly number[]>([]);
  /** Only what is still shown can be changed. */
  const chosenShown = $derived(chosen.filter((id) => shown.some((alarm) => alarm.id === id)));

  function addressWith(name: string, value: string): string {
    const next = new URLSearchParams(given);
    if (value === '') next.delete(name);
    else next.set(name, value);
    const query = next.toString();
    return `/alarms${query === '' ? '' : `?${query}`}`;
  }
  function type(value: string): void {
    typed = value;

    replaceState(addressWith('text', value), page.state);
  }
  const title = $derived(asked('service') ? `of ${serviceByKey(asked('service')).several}` : 'of every service');
</script>

{#snippet filter(name: string, label: string, all: string, options: readonly (readonly [string, string])[])}
  <form method="get" action="/alarms" data-sveltekit-keepfocus data-sveltekit-noscroll>
    {#each [...given].filter(([key]) => key !== name) as [key, value] (key)}<input
        type="hidden"
        name={key}
        {value}
      />{/each}
    <select
      class="field w-auto! text-[13px]!"
      {name}
      aria-label={label}
      value={asked(name)}
      onchange={(event) => event.currentTarget.form?.requestSubmit()}
    >
      <option value="">{all}</option>
      {#each options as [value, says] (value)}<option {value}>{says}</option>{/each}
    </select>
  </form>
{/snippet}

<svelte:head><title>Alarms · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-center gap-3">
    <h1>Alarms <span class="text-quiet text-[14px] font-normal">{title}</span></h1>
    <span class="ml-auto flex flex-wrap gap-2">
      <a class="btn" href={withRange('/alarms/files')}>As files</a>
      {#if mayEdit}
        <a class="btn" href={withRange(`/alarms/recommended${asked('service') ? `?service=${asked('service')}` : ''}`)}
          >Recommended alarms</a
        >
        <a class="btn btn-main" href={withRange('/alarms/new')}>New alarm</a>
      {/if}
    </span>
  </div>
  <nav class="border-line mb-2 flex flex-wrap gap-x-4 gap-y-1 border-b pb-1.5 text-[13px]" aria-label="Views">
    {#snippet viewLink(name: string, says: string, count: number)}
      <a
        class={['hover:underline', view === name ? 'text-ink border-b-2 border-current font-semibold' : 'text-quiet']}
        aria-current={view === name ? 'page' : undefined}
        href={addressWith('view', name)}>{says} <span class="num">{count}</span></a
      >
    {/snippet}
    {@render viewLink('', 'All', filtered.length)}
    {#each alarmViews as name (name)}
      {@render viewLink(name, viewNames[name], filtered.filter(({ views }) => views.includes(name)).length)}
    {/each}
    {@render viewLink(
      'unwatched',
      'Resources without any alarm',
      unwatched.reduce((sum, { count }) => sum + count, 0)
    )}
  </nav>
  <div class="mb-2 flex flex-wrap items-center gap-2">
    {#if !isUnwatched}
      <input
        class="field max-w-[220px]! text-[13px]!"
        type="search"
        placeholder="Name, sentence, owner or label"
        aria-label="Find an alarm"
        value={text}
        oninput={(event) => type(event.currentTarget.value)}
      />
      {@render filter('state', 'State', 'every state', [
        ['raised', 'raised'],
        ['indeterminate', 'indeterminate'],
        ['clear', 'clear'],
        ['off', 'switched off']
      ])}
      {@render filter(
        'severity',
        'Severity',
        'every severity',
        severities.map((name) => [name, name] as const)
      )}
    {/if}
    {@render filter(
      'service',
      'Service',
      'every service',
      services.map((key) => [key, serviceByKey(key).title] as const)
    )}
    {#if !isUnwatched}
      {@render filter('owner', 'Owner', 'every owner', [
        ['-', 'nobody'] as const,
        ...owners.map((name) => [name, name] as const)
      ])}
    {/if}
    {#if isFiltered}<a class="link text-[13px]" href={withRange('/alarms')} onclick={() => (typed = null)}>Show all</a
      >{/if}
    {#if shownView}<span class="text-quiet text-[13px]">{viewHelp[shownView]}</span>{/if}
  </div>
  {#each data.unreadable as message (message)}<p class="fault mb-2 text-[13px]" role="alert">{message}</p>{/each}
  {#if isUnwatched}
    <UnwatchedResources groups={unwatched} recommended={data.recommended} {mayEdit} />
  {:else}
    {#if mayEdit}<BulkBar chosen={chosenShown} routes={data.routes} {owners} onClear={() => (chosen = [])} />{/if}
    {#if shown.length > 0}
      <AlarmRows
        alarms={shown}
        chosen={chosenShown}
        {mayEdit}
        now={live.now}
        span={{ from: before(data.now, times(30, day)), to: data.now }}
        onChoose={(ids: readonly number[]) => (chosen = ids)}
      />
      <p class="text-quiet mt-1 text-[12px]">
        {countOf(shown.length, 'alarm')}{shown.length < data.alarms.length ? ` of ${data.alarms.length}` : ''}
      </p>
    {:else if isFiltered && data.alarms.length > 0}
      <p class="panel text-quiet p-4">
        No alarm is like that. <a class="link" href={withRange('/alarms')} onclick={() => (typed = null)}
          >Show all {data.alarms.length}</a
        >
      </p>
    {:else}
      <p class="panel text-quiet p-4">
        No alarm yet. <a class="link" href={withRange('/alarms/recommended')}>Recommended alarms</a> suit what is
        collected, with thresholds from its history; or open
        <a class="link" href={withRange('/services/machines/board')}>a board</a>
        and press <b>Alarm on this</b> on a panel.
      </p>
    {/if}
  {/if}
</main>
