<script lang="ts">
  import { ownFieldNames, quotedSearch, type LogTally } from '$lib/core/logs';
  import { countOf } from '$lib/core/words/count';
  import { answerOrNull, callApi, wordsOf } from '../api';

  interface Props {
    /** What is searched for, and in which range. */
    search: string;
    span: Record<string, string>;
    /** The field by which lines are counted; empty for none. */
    by: string;
    onBy: (field: string) => void;
    /** Adds a clause to the search. */
    onNarrow: (clause: string) => void;
  }
  let { search, span, by, onBy, onNarrow }: Props = $props();
  let names = $state.raw<readonly string[]>([]);
  let tally = $state.raw<LogTally | null>(null);
  let problem = $state('');
  const most = 12;
  const countable = ownFieldNames.filter((name) => name !== 'text');
  const all = $derived([...new Set([...countable, ...names, ...(by === '' ? [] : [by])])]);
  const greatest = $derived(tally?.values[0]?.count ?? 1);

  $effect(() => {
    const end = new AbortController();
    void callApi<{ fields: { name: string }[] }>('GET', '/lines/fields', { query: span, signal: end.signal }).then(
      (reply) => (names = (answerOrNull(reply)?.fields ?? []).map(({ name }) => name))
    );
    return () => end.abort();
  });
  $effect(() => {
    const end = new AbortController();
    problem = '';
    if (by === '') tally = null;
    else
      void callApi<LogTally>('GET', '/lines/counts', {
        query: { ...span, search, by, most: String(most) },
        signal: end.signal
      }).then((reply) => {
        if (reply.kind === 'cancelled') return;
        tally = reply.kind === 'answered' ? reply.answer : null;
        problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
      });
    return () => end.abort();
  });
  const clauseOf = (value: string): string => `${quotedSearch(by)} = ${quotedSearch(value)}`;
</script>

<section class="panel mb-2.5" aria-label="Counted by a field">
  <header>
    <h2>By</h2>
    <select
      class="part num text-[13px]"
      aria-label="Field"
      value={by}
      onchange={(event) => onBy(event.currentTarget.value)}
    >
      <option value="">no field</option>
      {#each all as name (name)}<option value={name}>{name}</option>{/each}
    </select>
  </header>
  {#if problem !== ''}<p class="text-[13px]" role="alert">{problem}</p>{/if}
  {#if by !== '' && tally !== null}
    <ul class="text-[12.5px]">
      {#each tally.values as { value, count } (value)}
        <li class="flex items-baseline gap-2 py-0.5">
          <button
            class="num min-w-0 flex-1 truncate text-left hover:underline"
            title={`Only lines with ${by} = ${value}`}
            onclick={() => onNarrow(clauseOf(value))}>{value}</button
          >
          <svg class="h-2 w-[64px] self-center" viewBox="0 0 64 8" aria-hidden="true"
            ><rect width={Math.max(1, (64 * count) / greatest)} height="8" fill="var(--deep)" /></svg
          >
          <span class="num w-[7ch] text-right">{count.toLocaleString('en')}</span>
          <button
            class="link text-[11.5px]"
            aria-label={`Leave out ${by} = ${value}`}
            onclick={() => onNarrow(`not ${clauseOf(value)}`)}>leave out</button
          >
        </li>
      {:else}<li class="text-quiet">None of the lines has it.</li>{/each}
    </ul>
    <p class="text-quiet mt-1 text-[12px]">
      {#if tally.others.lines > 0}{countOf(tally.others.lines, 'line')} of {countOf(
          tally.others.values,
          'other value'
        )}.
      {/if}{#if tally.without > 0}{countOf(tally.without, 'line')} without it.{/if}
      {#if !tally.isDone}It took too long: these are the newest lines only.{/if}
    </p>
  {/if}
</section>
