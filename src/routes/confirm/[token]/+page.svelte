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
      {#if data.topic !== null}<p>
          <span class="num">{data.address}</span> subscribes to <b>{data.topic}</b>. You can close this page, or
          <a class="link" href={data.leave}>leave the topic</a> at any time.
        </p>{:else}<p>
          Bussola now sends the alarms of the channel <b>{data.name}</b> to <span class="num">{data.address}</span>. You
          can close this page.
        </p>{/if}
    {:else}
      <h1>{data.topic === null ? 'May Bussola send you alarms?' : `Subscribe to ${data.topic}?`}</h1>
      <p>
        {data.createdBy} added <span class="num">{data.address}</span>{#if data.topic === null}
          as the channel <b>{data.name}</b>{:else}
          as a subscriber{/if}. Nothing is sent to it until you agree.
      </p>
      <form method="post" use:enhance><button class="btn btn-main">Yes, send them to me</button></form>
      <p class="text-quiet text-[13px]">If you do not want them, close this page.</p>
    {/if}
  </div>
</main>
