<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { clausesOf } from '$lib/core/logs';

  interface Props {
    /** What is searched for. */
    text: string;
    onSearch: (text: string) => void;
  }
  let { text, onSearch }: Props = $props();
  const clauses = $derived(clausesOf(text));
</script>

{#if clauses.length > 1 || (clauses.length === 1 && clauses[0]?.text !== text.trim())}
  <ul class="mb-2.5 flex flex-wrap gap-1.5" aria-label="Clauses of the search">
    {#each clauses as clause, index (index)}
      <li class="border-edge bg-panel flex items-center rounded-[3px] border text-[12.5px]">
        <button
          class="num max-w-[46ch] truncate px-2 py-0.5 text-left hover:underline"
          title={clause.isTurned ? 'Look for these instead' : 'Leave these out instead'}
          onclick={() => onSearch(clause.turned)}>{clause.text}</button
        >
        <button
          class="border-line border-l px-1.5 py-1"
          aria-label={`Take away: ${clause.text}`}
          onclick={() => onSearch(clause.without)}><X size={12} /></button
        >
      </li>
    {/each}
  </ul>
{/if}
