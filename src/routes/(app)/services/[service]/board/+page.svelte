<script lang="ts">
  import { formOf } from '$lib/core/words/count';
  import ConnectOffer from '$lib/ui/account/ConnectOffer.svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { signalsOf } from '$lib/core/board';
  import BoardSheet from '$lib/ui/board/sheet/BoardSheet.svelte';
  import { copyOf } from '$lib/ui/board/share/copy-board';
  import { PanelViews } from '$lib/ui/board/data/panel-view.svelte';
  import { thingsOf } from '$lib/ui/board/data/board-context.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import ResourceMargin from '$lib/ui/margin/ResourceMargin.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { setParameters } from '$lib/ui/address';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const views = new PanelViews();
  const opened = $derived(Number(page.url.searchParams.get('resource')) || null);
  let problem = $state('');
  useRefresh(live, ['account', 'alarm'], 'bussola:board');

  const historyLeft = $derived(data.accounts.reduce((sum, { historyLeftMs }) => sum + historyLeftMs, 0));
  const historyWhole = $derived(data.accounts.reduce((sum, { historyWholeMs }) => sum + historyWholeMs, 0));
  const historyDone = $derived(Math.round(100 * (1 - historyLeft / Math.max(1, historyWhole))));
  const isFilled = $derived(data.board.panels.some((panel) => signalsOf(panel).length > 0));
  const things = $derived(thingsOf(data));

  async function copy(): Promise<void> {
    const made = await copyOf(data.board);
    if ('id' in made) await goto(withRange(`/boards/${made.id}?edit`));
    else problem = made.problem;
  }
</script>

<svelte:head><title>{data.board.title} · Bussola</title></svelte:head>
<main class="@container min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1">
    <h1>{data.board.title}</h1>
    <span class="text-quiet text-[13px]">{data.board.about}</span>
    {#if mayEdit && isFilled}<button class="btn ml-auto" onclick={copy}>Copy to my boards</button>{/if}
  </div>
  {#if problem}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  {#if historyLeft > 0}
    <p class="text-quiet mb-2 text-[13px]" role="status">
      History is being fetched, newest first: {historyDone} %
      <progress class="align-middle" max="100" value={historyDone}></progress>
    </p>
  {/if}
  {#if !isFilled}
    <div class="panel items-start gap-2 p-6!">
      <h2>{data.accounts.length === 0 ? 'No account is connected yet.' : 'The first pull is under way.'}</h2>
      {#if data.accounts.length === 0}
        <p class="text-quiet">{data.board.title} appear here as soon as an account brings some.</p>
        <ConnectOffer isMain />
      {:else}
        <p class="text-quiet">
          {data.board.title} appear as soon as the provider has listed them.
          <a class="link" href="/accounts">See how the accounts do</a>
        </p>
      {/if}
    </div>
  {:else}
    {#key data.service}
      <BoardSheet board={data.board} metrics={data.metrics} {things} {views} />
    {/key}
    {#if data.lacks.length > 0}
      <p class="text-quiet mt-3 text-[13px]">
        It would also show {data.lacks.join(', ')}, which {formOf(data.lacks.length, 'is', 'are')} not collected.
        <a class="link" href={withRange(`/coverage?service=${data.service}`)}
          >Choose what is collected of {data.several}</a
        >
      </p>
    {/if}
  {/if}
</main>
{#if opened !== null}<ResourceMargin resourceId={opened} onClose={() => setParameters({ resource: null })} />{/if}
