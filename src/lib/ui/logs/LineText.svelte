<script lang="ts">
  import { shownPieces } from '$lib/core/logs';
  import type { TextSpan } from '$lib/core/problem/problem';

  interface Props {
    text: string;
    /** What was looked for in it. */
    marks?: readonly TextSpan[];
    /** Characters that are shown. */
    most?: number;
    /** Whether it is only the beginning of a line. */
    isCut?: boolean;
  }
  let { text, marks = [], most = Infinity, isCut = false }: Props = $props();
</script>

<bdi class="break-words whitespace-pre-wrap"
  >{#each shownPieces(text, marks, most) as { text: piece, kind }, index (index)}{#if kind === 'marked'}<mark
        class="border-deep text-ink border-b-2 bg-transparent font-semibold">{piece}</mark
      >{:else if kind === 'hidden'}<span class="text-quiet mx-0.5 border px-0.5 text-[11px]">{piece}</span
      >{:else}{piece}{/if}{/each}{#if isCut}<span class="text-quiet">… and more</span>{/if}</bdi
>
