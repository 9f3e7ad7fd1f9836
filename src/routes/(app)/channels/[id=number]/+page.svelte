<script lang="ts">
  import { enhance } from '$app/forms';
  import { channelKindWords, subscriberKinds } from '$lib/core/notify';
  import { countOf } from '$lib/core/words/count';
  import CodeForm from '$lib/ui/notify/CodeForm.svelte';
  import ConfirmedAction from '$lib/ui/forms/ConfirmedAction.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import ChannelForm from '$lib/ui/notify/ChannelForm.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data, form: result }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const confirmed = $derived(data.subscribers.filter(({ confirmedAt }) => confirmedAt !== null).length);
  const waiting = $derived(data.subscribers.length - confirmed);
</script>

<svelte:head><title>{data.topic.name} · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <p class="text-[13px]"><a class="link" href="/channels">Channels</a></p>
  <h1 class="mb-3">
    {data.topic.name}
    <span class="text-quiet text-[14px] font-normal"
      >topic, {countOf(confirmed, 'subscriber')}{waiting > 0 ? `, ${waiting} not confirmed` : ''}</span
    >
  </h1>
  <p class="text-quiet mb-2.5 text-[13px]">
    {#if data.routes.length === 0}No route notifies it.
      <a class="link" href="/routes">Add it to a route</a>{:else}Notified by
      {#each data.routes as { id, name }, index (id)}{index > 0 ? ', ' : ''}<a class="link" href="/routes#route-{id}"
          >{name}</a
        >{/each}.{/if}
    Each message is sent to every subscriber who has confirmed; each can leave by the link in it.
  </p>
  {#if result && 'problem' in result}<p class="fault mb-2" role="alert">{result.problem}</p>{/if}
  {#if result && 'done' in result}<p class="text-ok mb-2 break-all" role="status">{result.done}</p>{/if}
  <section class="panel mb-2.5" aria-label="Subscribers">
    {#if data.subscribers.length > 0}
      <table class="rows">
        <thead><tr><th>Subscriber</th><th>Kind</th><th>Confirmed</th><th>Added by</th><th></th></tr></thead>
        <tbody>
          {#each data.subscribers as { id, kind, address, confirmedAt, confirmSentAt, createdBy } (id)}
            {@const byCode = kind === 'chat-hook' || kind === 'webhook'}
            <tr>
              <td class="num [overflow-wrap:anywhere]">{address}</td>
              <td class="text-quiet">{channelKindWords[kind]}</td>
              <td
                >{#if confirmedAt}<b class="text-ok">✓</b> <Moment at={confirmedAt} now={live.now} />{:else}<b
                    class="text-major">! not confirmed</b
                  >{#if confirmSentAt}<span class="text-quiet"
                      >, {byCode ? 'code' : 'link'} sent <Moment at={confirmSentAt} now={live.now} /></span
                    >{/if}{/if}</td
              >
              <td class="text-quiet">{createdBy}</td>
              <td class="right whitespace-nowrap">
                {#if mayEdit}
                  {#if confirmedAt === null}
                    {#if byCode}<CodeForm {id} name={address} />{/if}
                    <form class="inline" method="post" action="?/sendAgain" use:enhance>
                      <input type="hidden" name="id" value={id} /><button class="btn">Send again</button>
                    </form>
                  {/if}
                  <ConfirmedAction action="?/remove" {id} label="Remove" question="Remove {address}?" />
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    {:else}<p class="text-quiet text-[13px]">
        Nobody subscribes yet, so whatever is sent to the topic reaches nobody.{mayEdit ? ' Add an address below.' : ''}
      </p>{/if}
  </section>
  {#if mayEdit}<ChannelForm
      initial={data.form}
      kinds={subscriberKinds}
      title="Add a subscriber"
      withName={false}
    />{/if}
</main>
