<script lang="ts">
  import { enhance } from '$app/forms';
  import { channelKindWords } from '$lib/core/notify';
  import CodeForm from '$lib/ui/notify/CodeForm.svelte';
  import ConfirmedAction from '$lib/ui/forms/ConfirmedAction.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import ChannelForm from '$lib/ui/notify/ChannelForm.svelte';
  import { stateWords } from '$lib/ui/notify/message-words';
  import AttemptList from '$lib/ui/notify/AttemptList.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data, form: result }: PageProps = $props();
  /** Routes that are named beside a channel. */
  const mostNamed = 4;
  const live = useLive();
  const { mayEdit } = useReader();
</script>

<svelte:head><title>Channels · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">
    Channels <span class="text-quiet text-[14px] font-normal"
      >ways to reach someone; each must be confirmed by whoever reads it</span
    >
  </h1>
  <p class="mb-2.5 text-[13px]"><a class="link" href="/channels/words">What messages say</a></p>
  {#if result && 'problem' in result}<p class="fault mb-2" role="alert">{result.problem}</p>{/if}
  {#if result && 'done' in result}<p class="text-ok mb-2 break-all" role="status">{result.done}</p>{/if}
  <section class="panel mb-2.5" aria-label="Channels">
    {#if data.channels.length > 0}
      <table class="rows">
        <thead
          ><tr
            ><th>Channel</th><th>Address</th><th>Confirmed</th><th>Routes that notify it</th><th>Last message</th><th
            ></th></tr
          ></thead
        >
        <tbody>
          {#each data.channels as { id, kind, name, address, confirmedAt, confirmSentAt, routes, last, test } (id)}
            <tr data-channel={address}>
              <td
                >{#if kind === 'topic'}<a class="link font-bold" href="/channels/{id}">{name}</a>{:else}<b>{name}</b
                  >{/if}
                <span class="text-quiet block text-[12px] whitespace-nowrap">{channelKindWords[kind]}</span></td
              >
              <td class="num min-w-44 [overflow-wrap:anywhere]"
                >{#if kind === 'topic'}<a class="link font-sans" href="/channels/{id}">subscribers</a
                  >{:else}{address}{/if}</td
              >
              <td>
                {#if confirmedAt}<b class="text-ok">✓</b> <Moment at={confirmedAt} now={live.now} />{:else}<b
                    class="text-major"
                    >! {kind === 'topic'
                      ? 'nobody subscribes'
                      : kind === 'push'
                        ? 'takes notifications no longer'
                        : 'never confirmed'}</b
                  >{#if confirmSentAt}<span class="text-quiet"
                      >, {kind === 'email' ? 'link' : 'code'} sent <Moment at={confirmSentAt} now={live.now} /></span
                    >{/if}{/if}
              </td>
              <td
                >{#each routes.slice(0, mostNamed) as route, index (route.id)}{index > 0 ? ', ' : ''}<a
                    class="link"
                    href="/routes#route-{route.id}">{route.name}</a
                  >{:else}<span class="text-quiet">none</span>{/each}{#if routes.length > mostNamed}&nbsp;and {routes.length -
                    mostNamed} more{/if}</td
              >
              <td
                >{#if last}<span class={last.lastError ? 'fault' : 'text-quiet'}
                    >{stateWords(last.state, last.lastError)} <Moment at={last.createdAt} now={live.now} /></span
                  >{:else}<span class="text-quiet">none</span>{/if}</td
              >
              <td class="right whitespace-nowrap">
                {#if mayEdit}
                  {#if confirmedAt}
                    <form class="inline" method="post" action="?/test" use:enhance>
                      <input type="hidden" name="id" value={id} /><button class="btn">Send a test</button>
                    </form>
                  {:else}
                    {#if kind !== 'email' && kind !== 'topic' && kind !== 'push'}<CodeForm {id} {name} />{/if}
                    {#if kind !== 'topic' && kind !== 'push'}<form
                        class="inline"
                        method="post"
                        action="?/sendAgain"
                        use:enhance
                      >
                        <input type="hidden" name="id" value={id} /><button class="btn">Send again</button>
                      </form>{/if}
                  {/if}
                  {#if kind === 'webhook'}<ConfirmedAction
                      action="?/secret"
                      {id}
                      label="New secret"
                      question="Replace the secret of {name}? The one before counts for a day."
                    />{/if}
                  <ConfirmedAction
                    action="?/remove"
                    {id}
                    label="Remove"
                    question="Remove {name}?"
                    things={[{ kind: 'channel', id }]}
                  />
                {/if}
              </td>
            </tr>
            {#if test}
              <tr class="detail" aria-label="Test of {name}"
                ><td colspan="6"><AttemptList name="Test" attempts={test.attempts} now={live.now} /></td></tr
              >
            {/if}
          {/each}
        </tbody>
      </table>
    {:else}<p class="text-quiet text-[13px]">
        No channel yet. Incidents are shown, but nobody is notified. Add an address below.
      </p>{/if}
  </section>
  {#if mayEdit}<ChannelForm initial={data.form} />{/if}
</main>
