<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import type { Snippet } from 'svelte';
  import { bySection, type Board, type Panel } from '$lib/core/board';

  interface Props {
    board: Board;
    panel: Snippet<[Panel]>;
    /** Sections that are folded now. */
    folded: ReadonlySet<string>;
    onFold: (section: string) => void;
  }
  let { board, panel: body, folded, onFold }: Props = $props();
</script>

{#each bySection(board) as { section, panels } (section?.id ?? '')}
  {#if section}
    <h2 class="mt-3 mb-1.5 flex items-center gap-1">
      <button
        class="flex items-center gap-1"
        aria-expanded={!folded.has(section.id)}
        onclick={() => onFold(section.id)}
      >
        {#if folded.has(section.id)}<ChevronRight size={15} />{:else}<ChevronDown size={15} />{/if}{section.title}
      </button>
      {#if folded.has(section.id)}<span class="text-quiet text-[12px] font-normal"
          >{countOf(panels.length, 'panel')} folded</span
        >{/if}
    </h2>
  {/if}
  {#if panels.length > 0 && !(section && folded.has(section.id))}
    <div class="board">
      {#each panels as panel (panel.id)}
        <div
          class="min-w-0"
          style:--column="{panel.place.x + 1} / span {panel.place.w}"
          style:--row="{panel.place.y + 1} / span {panel.place.h}"
          style:--rows={panel.place.h}
        >
          {@render body(panel)}
        </div>
      {/each}
    </div>
  {/if}
{/each}

<style>
  .board {
    display: grid;
    gap: 10px;
    grid-template-columns: repeat(12, minmax(0, 1fr));
    grid-auto-rows: 56px;
  }
  .board > div {
    grid-column: var(--column);
    grid-row: var(--row);
  }
  /* On paper a board keeps its form, and no panel is cut in two. */
  @media print {
    .board > div {
      break-inside: avoid;
    }
  }
  @media screen {
    @container (max-width: 760px) {
      .board {
        display: flex;
        flex-direction: column;
      }
      .board > div {
        height: calc(var(--rows) * 66px - 10px);
      }
    }
  }
</style>
