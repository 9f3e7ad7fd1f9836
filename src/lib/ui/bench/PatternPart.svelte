<script lang="ts">
  import { nameBefore, patternFromSample, type LinePattern, type MarkedPart } from '$lib/core/logs';
  import { countOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '../api';
  import SampleLine from './SampleLine.svelte';

  interface Props {
    /** Of the row. */
    name: string;
    /** Which lines are tried; null where that cannot be read. */
    search: string | null;
    span: Record<string, string>;
    /** Undefined for the fields that lines have. */
    pattern: LinePattern | undefined;
    onChange: (pattern: LinePattern | undefined) => void;
  }
  let { name, search, span, pattern, onChange }: Props = $props();
  const kinds = {
    stored: 'the fields that lines have',
    text: 'fields marked in a line',
    pairs: 'fields written as key=value',
    json: 'fields of JSON in the text',
    columns: 'fields in columns',
    expression: 'fields of a regular expression'
  } as const;
  type Kind = keyof typeof kinds;
  /** Chosen, and not usable yet. */
  let begun = $state<Kind | null>(null);
  const kind = $derived<Kind>(begun ?? pattern?.kind ?? 'stored');

  interface Tried {
    readonly tried: number;
    readonly matches: number;
    readonly matched: readonly {
      readonly key: string;
      readonly text: string;
      readonly fields: readonly { readonly name: string; readonly value: string }[];
    }[];
    readonly unmatched: readonly { readonly key: string; readonly text: string }[];
  }
  let tried = $state.raw<Tried | null>(null);
  let problem = $state('');
  $effect(() => {
    if (kind === 'stored' || search === null) return;
    const asking = new AbortController();
    const body = { ...span, search, pattern: pattern ?? null };
    void callApi<Tried>('POST', '/lines/pattern', { body, signal: asking.signal }).then((reply) => {
      if (asking.signal.aborted || reply.kind === 'cancelled') return;
      // That the search cannot be read is said beside the search.
      problem = reply.kind === 'refused' && reply.problem.code !== 'search-invalid' ? wordsOf(reply.problem) : '';
      if (reply.kind === 'answered') tried = reply.answer;
    });
    return () => asking.abort();
  });

  let sample = $state('');
  let marks = $state.raw<readonly MarkedPart[]>([]);

  function choose(next: Kind): void {
    marks = [];
    begun = null;
    if (next === 'stored') onChange(undefined);
    else if (next === 'pairs' || next === 'json') onChange({ kind: next });
    else {
      begun = next;
      onChange(undefined);
    }
  }
  function use(next: LinePattern): void {
    begun = null;
    onChange(next);
  }
  function mark(text: string, from: number, to: number): void {
    const others = text === sample ? marks.filter((one) => one.to <= from || one.from >= to) : [];
    const wanted = nameBefore(text, from);
    let free = wanted;
    for (let number = 2; others.some((one) => one.name === free); number++) free = `${wanted}${number}`;
    sample = text;
    marks = [...others, { from, to, name: free }];
    use({ kind: 'text', text: patternFromSample(sample, marks) });
  }
  function columns(separator: string, names: string): void {
    const list = names.split(',').map((one) => one.trim());
    if (separator !== '' && list.some((one) => one !== '')) use({ kind: 'columns', separator, names: list });
  }
  const ofColumns = $derived(pattern?.kind === 'columns' ? pattern : { separator: ' ', names: [] });
</script>

<select
  class="part"
  aria-label="Fields of {name}"
  value={kind}
  onchange={(event) => choose(event.currentTarget.value as Kind)}
>
  {#each Object.entries(kinds) as [key, words] (key)}<option value={key}>{words}</option>{/each}
</select>
{#if kind === 'text'}
  <input
    class="field mt-1 font-mono text-[13px]!"
    aria-label="Pattern of {name}"
    spellcheck="false"
    autocomplete="off"
    placeholder="Mark a part of a line below, or type: answered ‹status:number› in ‹ms:number› ms"
    value={pattern?.kind === 'text' ? pattern.text : ''}
    onchange={(event) => {
      marks = [];
      use({ kind: 'text', text: event.currentTarget.value });
    }}
  />
{:else if kind === 'columns'}
  <span class="flex items-center gap-2">
    <input
      class="field w-[6ch]! font-mono text-[13px]!"
      aria-label="Separator of columns of {name}"
      value={ofColumns.separator}
      onchange={(event) => columns(event.currentTarget.value, ofColumns.names.join(','))}
    />
    <input
      class="field font-mono text-[13px]!"
      aria-label="Names of columns of {name}"
      placeholder="Names of the columns, such as address, , status; empty ones are passed over"
      value={ofColumns.names.join(', ')}
      onchange={(event) => columns(ofColumns.separator, event.currentTarget.value)}
    />
  </span>
{:else if kind === 'expression'}
  <input
    class="field mt-1 font-mono text-[13px]!"
    aria-label="Regular expression of {name}"
    spellcheck="false"
    autocomplete="off"
    placeholder="took (?P&lt;ms&gt;[0-9.]+) ms"
    value={pattern?.kind === 'expression' ? pattern.expression : ''}
    onchange={(event) => use({ kind: 'expression', expression: event.currentTarget.value })}
  />
{/if}
{#if kind !== 'stored'}
  <div class="text-[13px] leading-normal" data-testid="pattern-{name}">
    {#if problem !== ''}<p class="fault" role="alert">{problem}</p>
    {:else if tried !== null}
      <p class="text-quiet">
        {#if tried.tried === 0}No line of the shown range matches the search.
        {:else if pattern === undefined}{kind === 'text'
            ? 'Mark what differs in one of these lines.'
            : 'The newest lines that match the search:'}
        {:else}Of the newest {countOf(tried.tried, 'line')}, {tried.matches} match the pattern{tried.matches <
          tried.tried
            ? `, ${tried.tried - tried.matches} do not`
            : ''}.{/if}
      </p>
      {#each pattern === undefined ? [] : tried.matched as { key, text, fields } (key)}
        <SampleLine
          {text}
          isMatched
          onMark={kind === 'text' ? (from: number, to: number) => mark(text, from, to) : null}
        >
          {#each fields as field (field.name)}<span class="bg-shallow mr-1 px-1"
              >{field.name} <b class="num">{field.value}</b></span
            >{/each}
        </SampleLine>
      {/each}
      {#each tried.unmatched as { key, text } (key)}
        <SampleLine {text} onMark={kind === 'text' ? (from: number, to: number) => mark(text, from, to) : null} />
      {/each}
    {/if}
  </div>
{/if}
