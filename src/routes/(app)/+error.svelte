<script lang="ts">
  import { page } from '$app/state';
</script>

<svelte:head><title>{page.error?.message ?? 'Error'} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-8">
  <h1>{page.error?.message ?? 'Something went wrong.'}</h1>
  <p class="text-quiet mt-2 max-w-xl">{page.error?.remedy ?? 'Go back and try again.'}</p>
  <p class="mt-4"><a class="btn" href="/">Go to Watch</a></p>
</main>
