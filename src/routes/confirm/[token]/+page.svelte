<script lang="ts">
  import { enhance } from '$app/forms';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>Confirm {data.address} · Bussola</title></svelte:head>
<main class="grid min-h-full place-items-center p-4">
  <div class="panel w-full max-w-md gap-3 p-6!">
    {#if data.confirmed}
      <h1>Confirmed</h1>
      <p>
        Bussola now sends the alarms of the channel <b>{data.name}</b> to <span class="num">{data.address}</span>. You
        can close this page.
      </p>
    {:else}
      <h1>May Bussola send you alarms?</h1>
      <p>
        {data.createdBy} added <span class="num">{data.address}</span> as the channel <b>{data.name}</b>. Nothing is
        sent to it until you agree.
      </p>
      <form method="post" use:enhance><button class="btn btn-main">Yes, send them to me</button></form>
      <p class="text-quiet text-[13px]">If you do not want them, close this page.</p>
    {/if}
  </div>
</main>
