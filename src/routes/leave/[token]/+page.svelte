<script lang="ts">
  import { enhance } from '$app/forms';
  import type { PageProps } from './$types';

  let { data, form }: PageProps = $props();
</script>

<svelte:head><title>Leave a topic · Bussola</title></svelte:head>
<main class="grid min-h-full place-items-center p-4">
  <div class="panel w-full max-w-md gap-3 p-6!">
    {#if form?.left}
      <h1>You have left {form.left}</h1>
      <p role="status">Nothing more is sent to you by this topic. You can close this page.</p>
    {:else if data.subscription}
      <h1>Leave {data.subscription.topic}?</h1>
      <p>
        <span class="num break-all">{data.subscription.address}</span> subscribes to the topic
        <b>{data.subscription.topic}</b> of Bussola.
      </p>
      <form method="post" use:enhance><button class="btn btn-main">Leave the topic</button></form>
    {:else if data.isKnown}
      <h1>You have left</h1>
      <p>Nothing is sent to you by this topic any more. You can close this page.</p>
    {:else}
      <h1>This link is not valid</h1>
      <p>It may be cut off. Open it from the message once more, or ask the people who run Bussola.</p>
    {/if}
  </div>
</main>
