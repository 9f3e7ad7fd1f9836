<script lang="ts">
  import { tick, type Snippet } from 'svelte';
  import { complete, completing, completions, type Completing } from '$lib/core/logs';
  import { answerOrNull, callApi } from '../api';

  interface Props {
    /** What is typed. */
    value: string;
    /** The range in which names and values are looked for, as a query of the API has it. */
    span: Record<string, string>;
    isFaulty: boolean;
    describedBy: string;
    onSearch: () => void;
    beside?: Snippet;
  }
  let { value = $bindable(), span, isFaulty, describedBy, onSearch, beside }: Props = $props();
  const id = $props.id();
  let field = $state<HTMLInputElement>();
  let place = $state.raw<Completing | null>(null);
  let offered = $state.raw<readonly string[]>([]);
  /** Which is chosen by the keys; -1 for none. */
  let at = $state(-1);
  const isOpen = $derived(offered.length > 0);
  /** Not while somebody is still typing. */
  const askAfterMs = 150;
  let asking = new AbortController();

  async function look(): Promise<void> {
    asking.abort();
    asking = new AbortController();
    const { signal } = asking;
    const now = field === undefined ? null : completing(value, field.selectionStart ?? value.length);
    place = now;
    at = -1;
    if (now === null) {
      offered = [];
      return;
    }
    offered = completions(now, []);
    await new Promise((next) => setTimeout(next, askAfterMs));
    if (signal.aborted) return;
    const known = await knownFor(now, signal);
    if (!signal.aborted) offered = completions(now, known);
  }

  /** What is known already: asked once for a field and a range, not with every letter. */
  const known = new Map<string, readonly string[]>();
  async function knownFor({ kind, field: of }: Completing, signal: AbortSignal): Promise<readonly string[]> {
    const asked = JSON.stringify([kind, of, span]);
    const before = known.get(asked);
    if (before !== undefined) return before;
    const found = await (kind === 'field' ? names(signal) : values(of, signal));
    if (!signal.aborted) known.set(asked, found);
    return found;
  }

  async function names(signal: AbortSignal): Promise<string[]> {
    const reply = await callApi<{ fields: { name: string }[] }>('GET', '/lines/fields', { query: span, signal });
    return (answerOrNull(reply)?.fields ?? []).map(({ name }) => name);
  }
  async function values(by: string, signal: AbortSignal): Promise<string[]> {
    if (by === 'severity' || by === 'text') return [];
    const query = { ...span, by, most: '200' };
    const reply = await callApi<{ values: { value: string }[] }>('GET', '/lines/counts', { query, signal });
    return (answerOrNull(reply)?.values ?? []).map(({ value: one }) => one);
  }

  async function choose(chosen: string): Promise<void> {
    if (place === null) return;
    const { text, caret } = complete(value, place, chosen);
    value = text;
    close();
    await tick();
    field?.focus();
    field?.setSelectionRange(caret, caret);
  }
  function close(): void {
    asking.abort();
    offered = [];
    at = -1;
  }

  function onKey(event: KeyboardEvent): void {
    if (event.key === 'Escape' && isOpen) {
      event.stopPropagation();
      close();
    } else if ((event.key === 'ArrowDown' || event.key === 'ArrowUp') && isOpen) {
      const by = event.key === 'ArrowDown' ? 1 : -1;
      at = at === -1 && by === -1 ? offered.length - 1 : (at + by + offered.length) % offered.length;
    } else if ((event.key === 'Enter' || event.key === 'Tab') && isOpen && at >= 0) {
      void choose(offered[at] ?? '');
    } else if (event.key === 'Enter') {
      close();
      onSearch();
    } else return;
    if (event.key !== 'Escape') event.preventDefault();
  }
</script>

<div class="border-edge bg-panel relative flex min-w-0 flex-1 items-center gap-3 rounded-[3px] border px-3">
  <input
    class="num min-w-0 flex-1 bg-transparent py-2 text-[14px] outline-none"
    type="text"
    role="combobox"
    aria-label="Search"
    aria-expanded={isOpen}
    aria-controls={`${id}-completions`}
    aria-autocomplete="list"
    aria-activedescendant={at >= 0 ? `${id}-completion-${at}` : undefined}
    aria-invalid={isFaulty}
    aria-describedby={describedBy}
    placeholder="killed or &quot;out of memory&quot;   severity >= warn"
    spellcheck="false"
    autocomplete="off"
    bind:this={field}
    bind:value
    oninput={() => void look()}
    onkeydown={onKey}
    onblur={close}
  />
  {@render beside?.()}
  <ul
    id={`${id}-completions`}
    role="listbox"
    aria-label="Completions"
    class={['border-edge bg-panel absolute top-full left-0 z-20 mt-1 min-w-[240px] border py-1', !isOpen && 'hidden']}
  >
    {#each offered as one, index (one)}
      <li
        id={`${id}-completion-${index}`}
        role="option"
        aria-selected={index === at}
        class={['num cursor-pointer px-3 py-0.5 text-[13px]', index === at && 'bg-shallow']}
        onmousedown={(event) => {
          event.preventDefault();
          void choose(one);
        }}
      >
        {one}
      </li>
    {/each}
  </ul>
</div>
