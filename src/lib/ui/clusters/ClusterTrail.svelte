<script lang="ts">
  import { withRange } from '../time/shown';

  /** The way from all clusters down to a part; what has no page is text. */
  let { steps }: { steps: readonly { readonly name: string; readonly href: string | null }[] } = $props();
</script>

<nav aria-label="Within the cluster" class="text-quiet mb-1 flex flex-wrap items-center gap-1.5 text-[13px]">
  {#each steps as { name, href }, index (index)}
    {#if index > 0}<span aria-hidden="true">›</span>{/if}
    {#if href === null}<span aria-current="page">{name}</span>{:else}<a class="link" href={withRange(href)}>{name}</a
      >{/if}
  {/each}
</nav>
