<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    text: string;
    isMatched?: boolean;
    /** Takes the part that was marked with the pointer or the keys; null where nothing is marked. */
    onMark: ((from: number, to: number) => void) | null;
    /** What was read of it. */
    children?: Snippet;
  }
  let { text, isMatched = false, onMark, children }: Props = $props();
  const longest = 400;
  const shown = $derived(text.slice(0, longest));

  /** The part that is marked, without spaces around it. */
  function marked(line: HTMLElement): void {
    const selection = getSelection();
    if (onMark === null || selection === null || selection.rangeCount === 0 || selection.isCollapsed) return;
    const range = selection.getRangeAt(0);
    if (!line.contains(range.startContainer) || !line.contains(range.endContainer)) return;
    const before = range.cloneRange();
    before.selectNodeContents(line);
    before.setEnd(range.startContainer, range.startOffset);
    const from = before.toString().length;
    const part = range.toString();
    const lead = part.length - part.trimStart().length;
    const { length } = part.trim();
    selection.removeAllRanges();
    if (length > 0) onMark(from + lead, from + lead + length);
  }
</script>

<div class="border-line flex flex-wrap items-baseline gap-x-3 border-b py-0.5">
  <span class={isMatched ? 'text-quiet' : 'text-major'} title={isMatched ? 'matches' : 'does not match'}
    >{isMatched ? '✓' : '–'}</span
  >
  <code
    class={['min-w-0 flex-1 break-all whitespace-pre-wrap [unicode-bidi:isolate]', onMark !== null && 'cursor-text']}
    {@attach (line: HTMLElement) => {
      const end = () => marked(line);
      line.addEventListener('pointerup', end);
      return () => line.removeEventListener('pointerup', end);
    }}
    data-testid="sample">{shown}</code
  >
  {@render children?.()}
</div>
