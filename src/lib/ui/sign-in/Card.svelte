<script lang="ts">
  import type { Snippet } from 'svelte';
  import Rose from '../helm/Rose.svelte';

  interface Props {
    title: string;
    /** Below the title. */
    note?: string;
    children: Snippet;
  }
  let { title, note = '', children }: Props = $props();
</script>

<svelte:head><title>{title} · Bussola</title></svelte:head>
<main class="grid min-h-full place-items-center p-4">
  <div class="panel w-full max-w-sm gap-3 p-6!">
    <div class="flex items-center gap-3">
      <Rose size={34} />
      <div>
        <h1>{title}</h1>
        {#if note}<p class="text-quiet text-[13px]">{note}</p>{/if}
      </div>
    </div>
    {@render children()}
  </div>
</main>
