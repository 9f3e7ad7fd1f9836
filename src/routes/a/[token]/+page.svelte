<script lang="ts">
  import { enhance } from '$app/forms';
  import { peopleMoment } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const open = $derived(data.incidents.filter(({ closedAt }) => closedAt === null));
  const waiting = $derived(open.filter(({ acknowledgedBy }) => acknowledgedBy === null));
</script>

<svelte:head><title>Acknowledge · Bussola</title></svelte:head>
<main class="grid min-h-full place-items-center p-4">
  <div class="panel w-full max-w-lg gap-3 p-5!">
    <h1 class="break-words">{data.subject}</h1>
    <ul class="flex flex-col gap-2">
      {#each data.incidents as { id, on, alarm, severity, openedAt, closedAt, acknowledgedBy } (id)}
        <li class="flex gap-2">
          <SeverityHoist severity={closedAt === null ? severity : null} />
          <span
            ><a class="link" href="/incidents/{id}"><b>{on}</b></a>: {alarm}<br />
            <span class="text-quiet text-[13px]"
              >{closedAt === null
                ? `raised since ${peopleMoment(openedAt, data.now, data.dates)}`
                : `clear since ${peopleMoment(closedAt, data.now, data.dates)}`}{acknowledgedBy === null
                ? ''
                : `, ${acknowledgedBy} looks after it`}</span
            ></span
          >
        </li>
      {:else}<li class="text-quiet">What this message was about is not stored any more.</li>{/each}
    </ul>
    {#if data.more > 0}<p class="text-quiet text-[13px]">and {data.more} more</p>{/if}
    {#if waiting.length + data.more > 0 && !data.isUsed}
      <form method="post" use:enhance>
        <button class="btn btn-main w-full py-3! text-[16px]!"
          >Acknowledge {waiting.length + data.more === 1
            ? 'it'
            : data.more > 0
              ? 'all of them'
              : countOf(waiting.length, 'incident')} as {data.by}</button
        >
      </form>
      <p class="text-quiet text-[13px]">Nobody else is notified of it then, until it becomes worse or clears.</p>
    {:else if open.length + data.more === 0}<p class="text-ok">Nothing is raised any more.</p>
    {:else if waiting.length === 0}<p class="text-ok" role="status">
        ✓ {open[0]?.acknowledgedBy} looks after {open.length === 1 ? 'it' : 'them'}.
      </p>
    {:else}<p class="fault">This link was used already. <a class="link" href="/">Sign in</a> to acknowledge.</p>{/if}
    <a
      class="link text-[13px]"
      href={data.incidents.length === 1 ? `/incidents/${data.incidents[0]?.id}` : '/incidents'}
      >Open {data.incidents.length === 1 ? 'the incident' : 'the incidents'} in Bussola</a
    >
  </div>
</main>
