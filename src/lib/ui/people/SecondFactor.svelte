<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import Entry from '../sign-in/Entry.svelte';
  import { Acting } from './acting.svelte';
  import Outcome from './Outcome.svelte';

  interface Props {
    hasFactor: boolean;
    /** Recovery codes that were not used yet. */
    codesLeft: number;
  }
  let { hasFactor, codesLeft }: Props = $props();
  const acting = new Acting();
  /** A secret that is being set up. */
  let made = $state<{ readonly secret: string; readonly picture: string } | null>(null);
  let password = $state('');
  let code = $state('');
  /** Codes that were just made; shown once. */
  let codes = $state<readonly string[]>([]);

  async function begin(): Promise<void> {
    codes = [];
    const done = await acting.call<{ secret: string; picture: string }>('POST', '/me/second-factor/new');
    made = done === null ? null : done.answer;
  }
  async function confirm(): Promise<void> {
    const body = { password, code, secret: made?.secret ?? '' };
    const done = await acting.call<{ codes: string[] }>(
      'PUT',
      '/me/second-factor',
      { body },
      'The second factor is set up.'
    );
    if (done === null) return;
    codes = done.answer.codes;
    made = null;
    password = code = '';
  }
  async function remove(): Promise<void> {
    if (
      (await acting.call(
        'POST',
        '/me/second-factor/remove',
        { body: { password } },
        'The second factor is removed.'
      )) === null
    )
      return;
    password = '';
    codes = [];
  }
  async function renew(): Promise<void> {
    const done = await acting.call<{ codes: string[] }>(
      'POST',
      '/me/recovery-codes',
      { body: { code } },
      'The codes before count no more.'
    );
    if (done === null) return;
    codes = done.answer.codes;
    code = '';
  }
</script>

{#snippet codeEntry()}
  <Entry label="Code" name="code" autocomplete="one-time-code" bind:value={code} />
{/snippet}
{#snippet passwordEntry()}
  <Entry label="Your password" name="password" type="password" autocomplete="current-password" bind:value={password} />
{/snippet}

<section class="panel gap-3" aria-label="Second factor">
  <h2>Second factor</h2>
  <Outcome {acting} />
  {#if codes.length > 0}
    <p>Recovery codes, each for one sign-in without the authenticator. They are shown only now:</p>
    <ul class="num grid grid-cols-2 gap-x-4" aria-label="Recovery codes">
      {#each codes as one (one)}<li>{one}</li>{/each}
    </ul>
  {/if}
  {#if made !== null}
    <p class="text-[13px]">Scan this with an authenticator, or type the secret; then enter the code that it shows.</p>
    <img src={made.picture} alt="The secret as a QR code" class="size-44 self-start" />
    <p class="num text-[13px] break-all" data-testid="secret">{made.secret}</p>
    <form
      class="flex flex-col gap-3"
      aria-label="Set up the second factor"
      onsubmit={(event) => {
        event.preventDefault();
        void confirm();
      }}
    >
      {@render codeEntry()}
      {@render passwordEntry()}
      <div class="flex gap-2">
        <button class="btn btn-main" disabled={acting.busy}>Set it up</button>
        <button type="button" class="btn" onclick={() => (made = null)}>Cancel</button>
      </div>
    </form>
  {:else if hasFactor}
    <p>
      Your sign-in asks for a code as well. {countOf(codesLeft, 'recovery code')} left.
    </p>
    <form
      class="flex flex-wrap items-end gap-2"
      aria-label="Other recovery codes"
      onsubmit={(event) => {
        event.preventDefault();
        void renew();
      }}
    >
      {@render codeEntry()}
      <button class="btn" disabled={acting.busy || code === ''}>Make other recovery codes</button>
    </form>
    <form
      class="flex flex-wrap items-end gap-2"
      aria-label="Remove the second factor"
      onsubmit={(event) => {
        event.preventDefault();
        void remove();
      }}
    >
      {@render passwordEntry()}
      <button class="btn" disabled={acting.busy || password === ''}>Remove the second factor</button>
    </form>
  {:else}
    <p>Your password alone lets you in. With an authenticator on your phone, somebody who has it does not get in.</p>
    <button class="btn self-start" disabled={acting.busy} onclick={begin}>Set up a second factor</button>
  {/if}
</section>
