<script lang="ts">
  import { connectorParts, type ConnectorPart } from '$lib/core/connector';
  import { callApi, wordsOf } from '../api';
  import type { TriedPart } from './connector-answers';
  import { partNames } from './connector-language';

  interface Props {
    /** The connector; null for one that is not saved. */
    connectorId: number | null;
    text: () => string;
    accounts: readonly { readonly id: number; readonly name: string }[];
    onTried: (tried: TriedPart | null) => void;
    onRecorded: () => void;
  }
  let { connectorId, text, accounts, onTried, onRecorded }: Props = $props();
  let part = $state<ConnectorPart>('resources');
  let account = $state(0);
  let endpoint = $state('');
  let keyId = $state('');
  let secret = $state('');
  let resource = $state('');
  let from = $state('');
  let to = $state('');
  let busy = $state(false);
  let problem = $state('');
  let name = $state('');
  let wasTried = $state(false);
  const hasSpan = $derived(part === 'points' || part === 'lines' || part === 'bills');

  const order = () => ({
    text: text(),
    part,
    access: account > 0 ? { accountId: account } : { endpoint, keyId, secret },
    inputs: {
      ...((part === 'points' || part === 'lines') && resource !== '' && { resource }),
      ...(hasSpan && { from, to })
    }
  });

  async function ask<Answer>(path: string, body: object): Promise<Answer | null> {
    busy = true;
    problem = '';
    const reply = await callApi<Answer>('POST', path, { body });
    busy = false;
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    return reply.kind === 'answered' ? reply.answer : null;
  }

  async function tryNow(): Promise<void> {
    const tried = await ask<TriedPart>('/connectors/try', order());
    wasTried = tried !== null && tried.problem === null;
    onTried(tried);
  }

  async function record(): Promise<void> {
    const made = await ask<{ id: number }>(`/connectors/${connectorId}/recordings`, { ...order(), name });
    if (made === null) return;
    name = '';
    onRecorded();
  }
</script>

<section class="panel gap-2 text-[13px]" aria-label="Try it">
  <header>
    <h2>Try it</h2>
    <small>as it is written; nothing is stored</small>
  </header>
  <form
    class="flex flex-col gap-2"
    onsubmit={(event) => {
      event.preventDefault();
      void tryNow();
    }}
  >
    <p class="sentence text-[15px]!">
      Request the
      <select class="part" aria-label="What is requested" bind:value={part}
        >{#each connectorParts as one (one)}<option value={one}>{partNames[one]}</option>{/each}</select
      >
      with
      <select class="part" aria-label="Whose access" bind:value={account}
        ><option value={0}>a credential</option>{#each accounts as { id, name } (id)}<option value={id}
            >the account {name}</option
          >{/each}</select
      >.
    </p>
    {#if account === 0}
      <div class="grid grid-cols-3 gap-2">
        <label
          >Address <input class="field num" type="url" required placeholder="https://" bind:value={endpoint} /></label
        >
        <label>Key <input class="field num" autocomplete="off" bind:value={keyId} /></label>
        <label>Secret <input class="field num" type="password" autocomplete="off" bind:value={secret} /></label>
      </div>
    {/if}
    {#if hasSpan}
      <div class="grid grid-cols-3 gap-2">
        {#if part !== 'bills'}<label
            >{part === 'lines' ? 'What writes' : 'Resource'}
            <input class="field num" placeholder="the first" bind:value={resource} /></label
          >{/if}
        <label
          >From <input
            class="field num"
            placeholder={part === 'bills' ? '3 days back' : '15 min back'}
            bind:value={from}
          /></label
        >
        <label>To <input class="field num" placeholder="now" bind:value={to} /></label>
      </div>
    {/if}
    <div class="flex flex-wrap items-center gap-2">
      <button class="btn btn-main" disabled={busy}>{busy ? 'Requesting' : 'Try it'}</button>
      {#if wasTried && connectorId !== null}
        <input class="field w-[18ch]!" aria-label="Name of the recording" placeholder="usual" bind:value={name} />
        <button type="button" class="btn" disabled={busy || name.trim() === ''} onclick={record}>Record it</button>
      {/if}
    </div>
    {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
  </form>
</section>
