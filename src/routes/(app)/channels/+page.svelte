<script lang="ts">
  import { untrack } from 'svelte';
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { enhance as enhancePlain } from '$app/forms';
  import ConfirmedAction from '$lib/ui/forms/ConfirmedAction.svelte';
  import { channelFormSchema } from '$lib/core/forms/forms';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { kindWords, stateWords } from '$lib/ui/notify/message-words';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data, form: result }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const { form, errors, message, enhance, submitting } = steadyForm(
    untrack(() => data.form),
    { validators: zod4Client(channelFormSchema) }
  );
</script>

<svelte:head><title>Channels · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">
    Channels <span class="text-quiet text-[14px] font-normal"
      >ways to reach someone; each must be confirmed by who is behind it</span
    >
  </h1>
  {#if result && 'problem' in result}<p class="fault mb-2" role="alert">{result.problem}</p>{/if}
  {#if result && 'done' in result}<p class="text-ok mb-2" role="status">{result.done}</p>{/if}
  <section class="panel mb-2.5" aria-label="Channels">
    {#if data.channels.length > 0}
      <table class="rows">
        <thead
          ><tr
            ><th>Channel</th><th>Address</th><th>Confirmed</th><th>Alarms that notify it</th><th>Last message</th><th
            ></th></tr
          ></thead
        >
        <tbody>
          {#each data.channels as { id, name, address, confirmedAt, confirmSentAt, alarms, last } (id)}
            <tr data-channel={address}>
              <td class="font-semibold">{name}</td>
              <td class="num">{address}</td>
              <td>
                {#if confirmedAt}<b class="text-ok">✓</b> <Moment at={confirmedAt} now={live.now} />{:else}<b
                    class="text-major">! never confirmed</b
                  >{#if confirmSentAt}<span class="text-quiet"
                      >, link sent <Moment at={confirmSentAt} now={live.now} /></span
                    >{/if}{/if}
              </td>
              <td
                >{#each alarms as alarm, index (alarm.id)}{index > 0 ? ', ' : ''}<a
                    class="link"
                    href="/alarms/{alarm.id}">{alarm.name}</a
                  >{:else}<span class="text-quiet">none</span>{/each}</td
              >
              <td
                >{#if last}<span class={last.lastError ? 'fault' : 'text-quiet'}
                    >{stateWords(last.state, last.lastError)} <Moment at={last.createdAt} now={live.now} /></span
                  >{:else}<span class="text-quiet">none</span>{/if}</td
              >
              <td class="right whitespace-nowrap">
                {#if mayEdit}
                  {#if !confirmedAt}<form class="inline" method="post" action="?/sendAgain" use:enhancePlain>
                      <input type="hidden" name="id" value={id} /><button class="btn">Send again</button>
                    </form>{/if}
                  <ConfirmedAction action="?/remove" {id} label="Remove" question="Remove {name}?" />
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    {:else}<p class="text-quiet text-[13px]">
        No channel yet. Alarms are shown, but nobody is notified. Add an address below.
      </p>{/if}
  </section>
  {#if data.troubled.length > 0}
    <section class="panel mb-2.5" aria-label="Messages that did not leave">
      <header>
        <h2>Messages that did not leave</h2>
        <small>tried again by themselves for a day, then given up</small>
      </header>
      <table class="rows">
        <tbody>
          {#each data.troubled as { id, kind, subject, channel, address, state, lastError, createdAt } (id)}
            <tr>
              <td class="text-quiet whitespace-nowrap">{kindWords[kind]}</td>
              <td>{subject}</td>
              <td>{channel} <span class="text-quiet num">{address}</span></td>
              <td class="fault">{stateWords(state, lastError)}</td>
              <td class="right whitespace-nowrap"><Moment at={createdAt} now={live.now} /></td>
              <td class="right">
                {#if mayEdit && state === 'failed'}<form method="post" action="?/resend" use:enhancePlain>
                    <input type="hidden" name="id" value={id} /><button class="btn">Send again</button>
                  </form>{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
  {/if}
  {#if mayEdit}
    <form method="post" action="?/add" use:enhance class="panel max-w-xl gap-3 p-4!">
      <h2>Add an e-mail channel</h2>
      <label class="text-[13px]"
        ><span class="block font-semibold">Name</span><input
          class="field"
          name="name"
          bind:value={$form.name}
          aria-invalid={$errors.name ? 'true' : undefined}
        />{#if $errors.name}<span class="fault" role="alert">{$errors.name}</span>{/if}</label
      >
      <label class="text-[13px]"
        ><span class="block font-semibold">Address</span><input
          class="field num"
          name="address"
          type="email"
          bind:value={$form.address}
          aria-invalid={$errors.address ? 'true' : undefined}
        />{#if $errors.address}<span class="fault" role="alert">{$errors.address}</span>{/if}</label
      >
      {#if $message}<p class="text-ok" role="status">{$message}</p>{/if}
      <button class="btn btn-main self-start" disabled={$submitting}>Add and send the link</button>
    </form>
  {/if}
</main>
