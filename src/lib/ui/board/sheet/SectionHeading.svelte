<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import { moveSection, removeSection, type Section } from '$lib/core/board';
  import type { BoardEditor } from '../edit/editor.svelte';

  let { section, editor }: { section: Section; editor: BoardEditor } = $props();
  const board = $derived(editor.board);
  const changed = (to: Partial<Section>) =>
    editor.change({
      ...board,
      sections: board.sections.map((one) => (one.id === section.id ? { ...one, ...to } : one))
    });
</script>

<div class="mt-3 mb-1 flex items-center gap-2 text-[13px]">
  <input
    class="field w-[260px]! font-bold"
    aria-label="Title of the section"
    maxlength="120"
    value={section.title}
    onchange={(event) => changed({ title: event.currentTarget.value })}
  />
  <label
    ><input
      type="checkbox"
      checked={section.folded}
      onchange={(event) => changed({ folded: event.currentTarget.checked })}
    /> folded at first</label
  >
  <button
    class="btn px-1.5!"
    aria-label="Move {section.title} up"
    onclick={() => editor.change(moveSection(board, section.id, -1))}><ArrowUp size={13} /></button
  >
  <button
    class="btn px-1.5!"
    aria-label="Move {section.title} down"
    onclick={() => editor.change(moveSection(board, section.id, 1))}><ArrowDown size={13} /></button
  >
  <button class="btn" onclick={() => editor.change(removeSection(board, section.id))}>Take the heading away</button>
</div>
