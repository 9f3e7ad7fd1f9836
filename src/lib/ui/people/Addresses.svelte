<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { channelKindWords, type ChannelKind } from '$lib/core/notify';
  import type { Instant } from '$lib/core/time';
  import { callApi, wordsOf } from '../api';

  interface Props {
    addresses: readonly {
      readonly id: number;
      readonly kind: ChannelKind;
      readonly address: string;
      readonly confirmedAt: Instant | null;
    }[];
  }
  let { addresses }: Props = $props();
  let kind = $state<'email' | 'text-message'>('email');
  let address = $state('');
  let codes = $state<Record<number, string>>({});
  let problem = $state('');
  let says = $state('');
  async function call(method: 'POST' | 'DELETE', path: string, body: object | null, done: string): Promise<boolean> {
    const reply = await callApi(method, `/me/addresses${path}`, body === null ? {} : { body });
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    says = reply.kind === 'answered' ? done : '';
    await invalidate('bussola:overview');
    return reply.kind === 'answered';
  }
  async function add(): Promise<void> {
    const done =
      kind === 'email' ? 'A link was sent to it: follow it to agree.' : 'A code was sent to it: enter it here.';
    if (await call('POST', '', { kind, address }, done)) address = '';
  }
</script>

<section class="panel gap-3" aria-label="Addresses">
  <h2>Addresses</h2>
  <p class="text-quiet text-[13px]">
    Routes that notify you, or whoever has the watch, send to these once they are confirmed.
  </p>
  {#each addresses as { id, kind: of, address: at, confirmedAt } (id)}
    <p class="border-line flex flex-wrap items-center gap-2 border-b pb-1 text-[13px] last:border-0">
      <span class="min-w-0 flex-1"
        >{channelKindWords[of]} <span class="num break-all">{at}</span>{#if confirmedAt === null}<span
            class="text-major">, not confirmed</span
          >{/if}</span
      >
      {#if confirmedAt === null}
        {#if of === 'text-message'}
          <input
            class="field num w-24!"
            aria-label="Code for {at}"
            inputmode="numeric"
            autocomplete="one-time-code"
            placeholder="code"
            bind:value={codes[id]}
          />
          <button
            class="btn"
            disabled={!codes[id]}
            onclick={() => void call('POST', `/${id}/confirm`, { code: codes[id] ?? '' }, `${at} is confirmed.`)}
            >Confirm</button
          >
        {/if}
        <button class="btn" onclick={() => void call('POST', `/${id}/send-again`, null, `It was sent to ${at} again.`)}
          >Send again</button
        >
      {/if}
      <button class="btn" onclick={() => void call('DELETE', `/${id}`, null, `${at} is removed.`)}>Remove</button>
    </p>
  {:else}<p class="text-major text-[13px]">None: nobody can notify you.</p>{/each}
  <form
    class="flex flex-wrap items-center gap-2 text-[13px]"
    aria-label="Add an address"
    onsubmit={(event) => {
      event.preventDefault();
      void add();
    }}
  >
    <select class="field w-auto!" aria-label="Kind of address" bind:value={kind}>
      <option value="email">e-mail</option>
      <option value="text-message">text message</option>
    </select>
    <input
      class="field w-[220px]!"
      aria-label="Address"
      placeholder={kind === 'email' ? 'mira@example.test' : '+1 202 555 0143'}
      required
      bind:value={address}
    />
    <button class="btn">Add address</button>
  </form>
  {#if says}<p class="text-ok text-[13px]" role="status">{says}</p>{/if}
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
</section>
