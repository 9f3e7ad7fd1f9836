<script lang="ts">
  import type { Targets } from '$lib/core/targets';
  import { countOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '../api';

  interface Tried {
    readonly count: number;
    readonly pages: readonly { readonly name: string }[];
    readonly reading: {
      readonly name: string;
      readonly isUp: boolean;
      readonly tookMs: number;
      readonly samples: number;
      readonly problem: string | null;
      readonly series: number;
      readonly stored: number;
    } | null;
    readonly series: readonly { readonly from: string; readonly to: string | null }[];
  }
  interface Props {
    accountId: number | null;
    /** What is written, checked; null where something is wrong. */
    checked: () => Targets | null;
    secret: () => string;
  }
  let { accountId, checked, secret }: Props = $props();
  let made = $state.raw<Tried | null>(null);
  let wanted = $state<string | null>(null);
  let problem = $state('');
  let busy = $state(false);

  async function tryNow(): Promise<void> {
    const definition = checked();
    if (definition === null) return;
    busy = true;
    const body = { definition, secret: secret(), accountId, page: wanted };
    const reply = await callApi<Tried>('POST', '/accounts/pages/try', { body });
    busy = false;
    if (reply.kind === 'answered') {
      [made, problem] = [reply.answer, ''];
      wanted = reply.answer.reading?.name ?? null;
    } else if (reply.kind === 'refused') [made, problem] = [null, wordsOf(reply.problem)];
  }
</script>

<section class="panel" aria-label="Try it">
  <header>
    <h2>Try it</h2>
    <small>one page, as it is written above; nothing is stored</small>
    {#if made !== null && made.pages.length > 1}
      <select
        class="part ml-auto max-w-[30ch]"
        aria-label="Page"
        value={wanted}
        onchange={(event) => {
          wanted = event.currentTarget.value;
          void tryNow();
        }}
        >{#each made.pages as { name } (name)}<option value={name}>{name}</option>{/each}</select
      >
    {/if}
    <button
      type="button"
      class={['btn', (made === null || made.pages.length <= 1) && 'ml-auto']}
      disabled={busy}
      onclick={tryNow}>{busy ? 'Reading' : 'Read a page'}</button
    >
  </header>
  {#if problem !== ''}<p class="fault text-[13px]" role="alert">{problem}</p>
  {:else if made === null}
    <p class="text-quiet text-[13px]">Read a page to see its series, and what the rules make of them.</p>
  {:else if made.reading === null}
    <p class="text-[13px]" role="status">The list has no pages.</p>
  {:else}
    {@const { reading } = made}
    <p class="text-[13px]" role="status">
      {#if reading.isUp}<b>{reading.name}</b> answered in {reading.tookMs} ms with {countOf(reading.samples, 'line')}:
        {countOf(reading.series, 'series', 'series')}, of which {reading.stored} will be stored.
        {#if made.count > 1}There are {made.count} pages.{/if}
        {#if reading.problem !== null}<span class="fault">! {reading.problem}</span>{/if}
      {:else}<b class="fault">! {reading.name} cannot be read.</b> {reading.problem}{/if}
    </p>
    {#if made.series.length > 0}
      <div class="mt-1 max-h-[340px] overflow-auto">
        <table class="rows">
          <thead><tr><th>On the page</th><th>Stored as</th></tr></thead>
          <tbody>
            {#each made.series as { from, to }, index (index)}
              <tr>
                <td class="num text-[12.5px]"
                  >{#if to === null}<s class="text-quiet">{from}</s>{:else}{from}{/if}</td
                >
                <td class="num text-[12.5px]"
                  >{#if to === null}<span class="text-quiet">left out</span>{:else if to === from}<span
                      class="text-quiet">the same</span
                    >{:else}{to}{/if}</td
                >
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
      {#if made.reading.series > made.series.length}<p class="text-quiet text-[12.5px]">
          The first {made.series.length} are shown.
        </p>{/if}
    {/if}
  {/if}
</section>
