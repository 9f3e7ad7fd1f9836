<script lang="ts">
  import { invalidate } from '$app/navigation';
  import type { ChangeKind } from '$lib/core/followers';
  import { countOf } from '$lib/core/words/count';
  import FollowerPanel from '$lib/ui/followers/FollowerPanel.svelte';
  import KindsPart from '$lib/ui/followers/KindsPart.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const acting = new Acting();
  useRefresh(live, ['followers', 'outbox'], 'bussola:followers');
  let channelId = $state<number | null>(null);
  let kinds = $state<ChangeKind[]>([]);

  const failing = $derived(
    data.followers.filter(({ stoppedAt, failingSince }) => stoppedAt !== null || failingSince !== null).length
  );
  const on = $derived(data.followers.filter(({ follower }) => follower.isOn).length);
  const heading = $derived(
    failing > 0
      ? `${countOf(failing, 'follower')} ${failing === 1 ? 'takes' : 'take'} nothing`
      : on === 0
        ? 'No program is sent changes'
        : `${countOf(on, 'program')} ${on === 1 ? 'is' : 'are'} sent changes`
  );
  const free = $derived(
    data.webhooks.filter(({ id }) => !data.followers.some(({ follower }) => follower.channelId === id))
  );

  async function add(): Promise<void> {
    if (channelId === null) return;
    const name = free.find(({ id }) => id === channelId)?.name ?? 'It';
    const made = await acting.call(
      'POST',
      '/followers',
      { body: { channelId, kinds, isOn: true } },
      `${name} follows.`
    );
    if (made !== null) {
      channelId = null;
      kinds = [];
    }
    await invalidate('bussola:followers');
  }
</script>

<svelte:head><title>Followers · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-2">
    <h1 class={failing > 0 ? 'text-major' : ''}>{heading}</h1>
    <span class="text-quiet text-[14px]">each change by people, programs and Bussola, signed and in order</span>
  </div>
  <Outcome {acting} />
  <div class="flex flex-col gap-2.5">
    {#each data.followers as one (one.id)}
      <FollowerPanel {acting} {one} changes={data.changes[one.id] ?? []} />
    {/each}
    <section class="panel" aria-label="New follower">
      <header><h2>New follower</h2></header>
      {#if free.length === 0}
        <p class="text-[13px]">
          A follower is a webhook that is sent each change. {data.webhooks.length === 0
            ? 'There is no webhook yet:'
            : 'Each webhook follows already:'}
          <a class="link" href="/channels">add one among the channels</a>.
        </p>
      {:else}
        <form
          class="flex flex-col items-start gap-3"
          onsubmit={(event) => {
            event.preventDefault();
            void add();
          }}
        >
          <label class="flex flex-col gap-1 text-[13px]"
            ><span class="text-quiet">Webhook</span>
            <select class="field" bind:value={channelId} required>
              <option value={null} disabled>Choose one</option>
              {#each free as { id, name, address, isConfirmed } (id)}
                <option value={id} disabled={!isConfirmed}
                  >{name}, {address}{isConfirmed ? '' : ' (not confirmed)'}</option
                >
              {/each}
            </select></label
          >
          <KindsPart bind:kinds of="new" />
          <button class="btn btn-main" disabled={acting.busy || channelId === null}>Send changes to it</button>
        </form>
      {/if}
    </section>
  </div>
</main>
