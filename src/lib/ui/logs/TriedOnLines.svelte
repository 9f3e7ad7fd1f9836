<script lang="ts">
  import LineText from './LineText.svelte';
  import type { TriedLine } from './tried';

  interface Props {
    examples: readonly TriedLine[];
  }
  let { examples }: Props = $props();
  const most = 240;
</script>

<ul class="num text-[12px]">
  {#each examples as { key, text, marks, stored } (key)}
    <li class="mb-1">
      <LineText {text} {marks} {most} />
      {#if stored === null}<span class="text-quiet block">would not be stored</span>
      {:else}<span class="text-quiet block">would be stored as <LineText text={stored} {most} /></span>{/if}
    </li>
  {/each}
</ul>
