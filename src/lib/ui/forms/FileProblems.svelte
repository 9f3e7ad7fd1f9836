<script lang="ts">
  import type { FieldProblem } from '$lib/core/problem/problem';

  let { problems }: { problems: readonly FieldProblem[] } = $props();
</script>

{#if problems.length > 0}
  <div role="alert">
    <p class="fault">It cannot be read. Nothing was changed.</p>
    <ul class="mt-1">
      {#each problems as { path, line, message }, index (index)}
        <li class="border-line border-b py-1 last:border-0">
          {#if line !== null}<b class="num">line {line}</b>{/if}
          {#if path}<span class="num text-quiet">{path}</span>{/if}
          {message}
        </li>
      {/each}
    </ul>
  </div>
{/if}
