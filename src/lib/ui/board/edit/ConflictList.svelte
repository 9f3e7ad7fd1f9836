<script lang="ts">
  import type { Conflict } from '$lib/core/board';
  import type { BoardEditor } from './editor.svelte';

  let { editor }: { editor: BoardEditor } = $props();
  const words: Readonly<Record<string, string>> = { place: 'place and size', signal: 'signal', title: 'title' };

  function told({ of, title, field, mine, theirs }: Conflict): string {
    const what = of === 'board' ? 'the board' : `the ${of} “${title}”`;
    if (field === null)
      return theirs === null
        ? `Somebody took away ${what}, which you changed: it stays.`
        : `Both of you added something in the place of ${what}.`;
    const short = (value: unknown) => (typeof value === 'string' && value.length < 60 ? ` “${value}”` : '');
    return `Both of you changed the ${words[field] ?? field} of ${what}: theirs${short(theirs)} stands, yours was${short(mine) || ' another'}.`;
  }
</script>

<ul class="panel mb-2 gap-1 text-[13px]" aria-label="Changed by two at once">
  {#each editor.standing.conflicts as conflict (conflict)}
    <li class="flex flex-wrap items-center gap-2">
      {told(conflict)}
      {#if conflict.theirs !== null}
        <button class="btn" onclick={() => editor.settle(conflict, 'mine')}>Use mine</button>
      {/if}
      <button class="btn" onclick={() => editor.settle(conflict, 'theirs')}
        >{conflict.theirs === null ? 'Good' : 'Let theirs stand'}</button
      >
    </li>
  {/each}
</ul>
