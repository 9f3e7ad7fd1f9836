<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import { readable, type TriedPart } from './connector-answers';

  let { tried }: { tried: TriedPart } = $props();
  const shownItems = $derived((tried.items ?? []).slice(0, 200));
  /** What one thing has, a row each. */
  const rowsOf = (item: unknown): [name: string, value: string][] =>
    typeof item === 'object' && item !== null
      ? Object.entries(item).map(([name, value]) => [name, typeof value === 'string' ? value : JSON.stringify(value)])
      : [['line', String(item)]];
  const pathOf = (url: string): string => {
    const { pathname, search } = new URL(url);
    return decodeURI(pathname + search);
  };
</script>

<div class="grid grid-cols-2 items-start gap-2.5 max-lg:grid-cols-1">
  <section class="panel min-w-0" aria-label="Requests and answers">
    <header>
      <h2>Requests and answers</h2>
      <small>{countOf(tried.exchanges.length, 'request')}</small>
    </header>
    {#each tried.exchanges as { method, url, headers, signs, body, status, answerHeaders, answer, isCut }, index (index)}
      <details class="border-line border-t py-1" open={index === 0 || index === tried.exchanges.length - 1}>
        <summary class="flex gap-2 text-[13px]">
          <span class="num min-w-0 flex-1 truncate">{method} {pathOf(url)}</span>
          <span class={['num', status >= 400 && 'fault']}>{status >= 400 ? '! ' : ''}{status}</span>
        </summary>
        <dl class="num text-quiet mt-1 text-[12px]">
          {#each Object.entries(headers) as [name, value] (name)}<div>{name}: {value}</div>{/each}
          {#each signs as name (name)}<div>{name}: <i>signs in, not shown</i></div>{/each}
        </dl>
        {#if body !== null}<pre class="num bg-sunk mt-1 max-h-[180px] overflow-auto p-1.5 text-[12px]">{readable(
              body
            )}</pre>{/if}
        <p class="text-quiet mt-1 text-[12px]">
          {answerHeaders['content-type'] ?? 'no content type'}{#if answerHeaders['link']}<span class="num"
              >, link: {answerHeaders['link']}</span
            >{/if}
        </p>
        <pre class="num bg-sunk mt-1 max-h-[260px] overflow-auto p-1.5 text-[12px]">{readable(answer)}</pre>
        {#if isCut}<p class="text-quiet text-[12px]">The answer is longer; this is its beginning.</p>{/if}
      </details>
    {:else}<p class="text-quiet text-[13px]">Nothing was requested.</p>{/each}
  </section>
  <section class="panel min-w-0" aria-label="What it is in Bussola">
    <header>
      <h2>What it is in Bussola</h2>
      {#if tried.items !== null}<small>{countOf(tried.items.length, 'thing')}</small>{/if}
    </header>
    {#if tried.problem !== null}<p class="text-[13px]" role="alert">
        <b class="fault">! {tried.problem.message}</b>
        {tried.problem.remedy}
      </p>{/if}
    {#if tried.refused > 0}<p class="fault text-[13px]">
        {countOf(tried.refused, 'value')} refused: they are no numbers.
      </p>{/if}
    {#if tried.items?.length === 0}<p class="text-[13px]">
        The answers have nothing of this kind. Look at the expression of <code class="num">each</code>.
      </p>{/if}
    {#each shownItems as item, index (index)}
      <dl
        class="num border-line grid max-h-[220px] grid-cols-[auto_minmax(0,1fr)] gap-x-2 overflow-auto border-t py-1 text-[12px]"
      >
        {#each rowsOf(item) as [name, value] (name)}
          <dt class="text-quiet">{name}</dt>
          <dd class="break-words">{value}</dd>
        {/each}
      </dl>
    {/each}
    {#if (tried.items?.length ?? 0) > shownItems.length}<p class="text-quiet text-[12.5px]">
        The first {shownItems.length} are shown.
      </p>{/if}
  </section>
</div>
