<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { untrack } from 'svelte';
  import { narrowed, type StarterPanel } from '$lib/core/signal';
  import { overlap, resolveRange, type Instant } from '$lib/core/time';
  import { limitText } from '$lib/core/units';
  import BusiestPanel from '$lib/ui/board/BusiestPanel.svelte';
  import LinePanel from '$lib/ui/board/LinePanel.svelte';
  import { BoardData, PanelData } from '$lib/ui/board/panel-data.svelte';
  import RaisedPanel from '$lib/ui/board/RaisedPanel.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import ResourceMargin from '$lib/ui/margin/ResourceMargin.svelte';
  import { shownRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  provideHover();
  const board = new BoardData();
  const held = new Map<string, PanelData>();
  const dataOf = (id: string) =>
    held.get(`${page.params.service} ${id}`) ??
    held.set(`${page.params.service} ${id}`, new PanelData()).get(`${page.params.service} ${id}`)!;
  const account = $derived(page.url.searchParams.get('account'));
  const shown = $derived(shownRange());
  const opened = $derived(Number(page.url.searchParams.get('resource')) || null);
  const signalOf = (panel: StarterPanel) => narrowed(panel.signal, account);
  const range = $derived(resolveRange(shown, live.now));
  const raisedHere = $derived(
    data.overview.logbook.incidents.filter(
      ({ openedAt, closedAt }) => overlap(range, { from: openedAt, to: (closedAt ?? live.now + 1) as Instant }) !== null
    )
  );
  const historyLeft = $derived(data.accounts.reduce((sum, { historyLeftMs }) => sum + historyLeftMs, 0));
  const historyDone = $derived(
    Math.round(
      100 *
        (1 -
          historyLeft /
            Math.max(
              1,
              data.accounts.reduce((sum, { historyWholeMs }) => sum + historyWholeMs, 0)
            ))
    )
  );

  /** Cells a chart has room for: one for each two pixels of a wide panel. */
  const cells = 400;

  function askAll(): void {
    const span = resolveRange(
      shown,
      untrack(() => live.now)
    );
    const panels = data.panels.map((panel) => ({
      data: dataOf(panel.id),
      signal: signalOf(panel),
      range: span,
      cells
    }));
    void board.ask(panels, 'UTC');
  }
  $effect(askAll);
  $effect(() => live.on(['samples'], () => shown.kind === 'live' && askAll()));
  useRefresh(live, ['account', 'alarm'], 'bussola:board');
  $effect(() => () => board.stop());

  function setSearch(name: string, value: string | null): void {
    const search = new URLSearchParams(page.url.search);
    if (value === null) search.delete(name);
    else search.set(name, value);
    void goto(`?${search.toString()}`, { keepFocus: true, noScroll: true });
  }
  const open = (resourceId: number) => setSearch('resource', String(resourceId));
  const limitsOf = ({ metric: name }: StarterPanel) =>
    data.limits
      .filter(({ metric }) => metric === name)
      .map(({ threshold, severity }) => ({
        value: threshold,
        severity,
        text: `${limitText(threshold, data.metrics[name]?.unit ?? '1')} ${severity}`
      }));
  /** Ticks on a panel: incidents of alarms on its metric. */
  const raisedOn = ({ metric: own }: StarterPanel) => {
    const names = new Set(data.limits.filter(({ metric }) => metric === own).map(({ name }) => name));
    return raisedHere
      .filter(({ alarm }) => names.has(alarm))
      .map(({ openedAt, closedAt, severity }) => ({ from: openedAt, to: closedAt, severity }));
  };
</script>

<svelte:head><title>{data.words.title} · Bussola</title></svelte:head>
<main class="@container min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>{data.words.title}</h1>
    <span class="text-quiet">ready board of the service</span>
    <label class="border-strong bg-panel ml-auto inline-flex overflow-hidden rounded-[3px] border text-[13px]">
      <span class="text-quiet border-line border-r px-2 py-1">Account</span>
      <select
        class="bg-panel px-2 font-semibold"
        value={account ?? ''}
        onchange={(event) => setSearch('account', event.currentTarget.value || null)}
      >
        <option value="">all {data.accounts.length}</option>
        {#each data.accounts as { name } (name)}<option>{name}</option>{/each}
      </select>
    </label>
  </div>
  {#if historyLeft > 0}
    <p class="text-quiet mb-2 text-[13px]" role="status">
      History is being fetched, newest first: {historyDone} %
      <progress class="align-middle" max="100" value={historyDone}></progress>
    </p>
  {/if}
  {#if data.panels.length === 0}
    <div class="panel items-start gap-2 p-6!">
      <h2>{data.accounts.length === 0 ? 'No account is connected yet.' : 'The first pull is under way.'}</h2>
      {#if data.accounts.length === 0}
        <p class="text-quiet">{data.words.title} appear here as soon as an account brings some.</p>
        <a class="btn btn-main" href="/accounts/new">Connect an account</a>
      {:else}
        <p class="text-quiet">
          {data.words.title} appear as soon as the provider has listed them.
          <a class="link" href="/accounts">See how the accounts do</a>
        </p>
      {/if}
    </div>
  {:else}
    <div class="grid grid-cols-12 gap-2.5">
      {#each data.panels as panel (panel.id)}
        {@const metric = data.metrics[panel.metric]}
        {#if metric}
          {#if panel.picture === 'busiest'}
            <div class="col-span-3 flex flex-col gap-2.5 @max-[860px]:col-span-12 @max-[860px]:order-first">
              <BusiestPanel title={panel.title} {metric} data={dataOf(panel.id)} onResource={open} />
              <RaisedPanel incidents={raisedHere} />
            </div>
          {:else}
            <div
              class={[
                panel.id === data.panels[0]?.id && data.panels[1]?.picture === 'busiest' ? 'col-span-9' : 'col-span-6',
                'min-w-0 @max-[860px]:col-span-12'
              ]}
            >
              <LinePanel
                title={panel.title}
                signal={signalOf(panel)}
                words={metric}
                samplingMs={metric.samplingMs}
                data={dataOf(panel.id)}
                limits={limitsOf(panel)}
                raised={raisedOn(panel)}
                height={panel.id === data.panels[0]?.id ? 170 : 130}
                rows={panel.id === data.panels[0]?.id ? 5 : 3}
                onResource={open}
              />
            </div>
          {/if}
        {/if}
      {/each}
    </div>
  {/if}
</main>
{#if opened !== null}<ResourceMargin resourceId={opened} onClose={() => setSearch('resource', null)} />{/if}
