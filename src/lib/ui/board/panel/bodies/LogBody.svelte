<script lang="ts">
  import { goto } from '$app/navigation';
  import type { PanelOf } from '$lib/core/board';
  import type { ShownLine } from '$lib/core/logs';
  import { searchText } from '$lib/core/signal';
  import { after, day, duration, textFromInstant, type Range } from '$lib/core/time';
  import { callApi, wordsOf } from '../../../api';
  import LineTable from '../../../logs/LineTable.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel, range }: { panel: PanelOf<'log'>; range: Range } = $props();
  const boardContext = useBoardContext();
  let lines = $state.raw<readonly ShownLine[] | null>(null);
  let count = $state(0);
  let problem = $state('');
  const isForGuests = $derived(boardContext.who === 'guest');
  /** What is looked for, narrowed by what is picked. */
  const search = $derived.by((): string => {
    const followed = boardContext.pickers.filter(({ name }) => !(panel.ignores ?? []).includes(name));
    const where = followed.flatMap(({ name, label }) => {
      const is = [...(boardContext.choices[name] ?? [])];
      return is.length > 0 ? [{ label, is }] : [];
    });
    return searchText({ lines: panel.search, where });
  });
  /** Not more often than this while the range moves with the clock, ms. */
  const readEveryMs = 30_000;
  const from = $derived(Math.floor(range.from / readEveryMs) * readEveryMs);
  const to = $derived(Math.ceil(range.to / readEveryMs) * readEveryMs);

  $effect(() => {
    if (isForGuests) return;
    const asking = new AbortController();
    const query = {
      search,
      from: textFromInstant(from as Range['from']),
      to: textFromInstant(after(to as Range['to'], duration(1))),
      limit: String(panel.rows)
    };
    void callApi<{ lines: ShownLine[]; count: number }>('GET', '/lines', { query, signal: asking.signal }).then(
      (reply) => {
        if (asking.signal.aborted || reply.kind === 'cancelled') return;
        problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
        if (reply.kind === 'answered') ({ lines, count } = reply.answer);
      }
    );
    return () => asking.abort();
  });
  const href = $derived(boardContext.href(`/logs?q=${encodeURIComponent(search)}`));
</script>

{#if isForGuests}<p class="text-quiet text-[13px]">Lines are shown to people who have signed in.</p>
{:else if problem !== ''}<p class="fault text-[13px]" role="alert">{problem}</p>
{:else if lines === null}<p class="text-quiet grid flex-1 place-items-center text-[13px]">Reading…</p>
{:else if lines.length === 0}<p class="text-quiet text-[13px]">No line of the shown range matches.</p>
{:else}
  <div class="min-h-0 flex-1 overflow-y-auto">
    <LineTable {lines} hasDays={range.to - range.from > day} onChoose={(key) => void goto(`${href}&line=${key}`)} />
  </div>
  <p class="text-quiet text-[12px]">
    {count > lines.length ? `The newest ${lines.length} of ${count.toLocaleString('en')}. ` : ''}<a class="link" {href}
      >Search in them</a
    >
  </p>
{/if}
