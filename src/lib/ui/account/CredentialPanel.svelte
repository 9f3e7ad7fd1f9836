<script lang="ts">
  import { enhance } from '$app/forms';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';
  import { useReader } from '../time/reader';
  import AccessChecks from './AccessChecks.svelte';

  interface Check {
    readonly name: string;
    readonly passed: boolean;
    readonly says: string;
    readonly remedy: string | null;
  }
  interface Props {
    account: {
      name: string;
      providerName: string;
      keyId: string;
      endpoint: string;
      clockAheadMs: number | null;
      secretChangedAt: Instant | null;
      lastTest: { at: Instant; checks: readonly Check[] } | null;
    };
    guide: { keyLabel: string; secretLabel: string } | null;
    /** Why the newest attempt to replace the credential failed, if it did. */
    problem: string | null;
    tried: readonly Check[] | null;
  }
  let { account, guide, problem, tried }: Props = $props();
  const live = useLive();
  const { mayAdminister } = useReader();
  let replacing = $state(false);
  let testing = $state(false);
  const apart = $derived(account.clockAheadMs === null ? null : Math.abs(account.clockAheadMs));
</script>

<section class="panel" aria-label="The credential">
  <header>
    <h2>{account.name} at {account.providerName}</h2>
    <small
      >{#if account.lastTest}tested <Moment at={account.lastTest.at} now={live.now} />{:else}not tested yet{/if}</small
    >
    {#if mayAdminister && guide}
      <form
        method="post"
        action="?/test"
        class="ml-auto"
        use:enhance={() => {
          testing = true;
          return async ({ update }) => {
            await update();
            testing = false;
          };
        }}
      >
        <button class="btn" disabled={testing}
          >{testing ? 'Asking…' : account.lastTest ? 'Test again' : 'Test it'}</button
        >
      </form>
    {/if}
  </header>
  {#if account.lastTest}<AccessChecks checks={account.lastTest.checks} />{:else}<p class="text-quiet text-[13px]">
      A test tries reach, clock, credential and each right, one after the other.
    </p>{/if}
  <p class="text-quiet border-line mt-1 border-t pt-1.5 text-[13px]">
    <span class="num text-[12px] break-all">{account.endpoint}</span>,
    <span class="num text-[12px]">{account.keyId}</span>, secret sealed{#if account.secretChangedAt}, replaced <Moment
        at={account.secretChangedAt}
        now={live.now}
      />{/if}.
    {#if apart !== null}{apart < 1000
        ? 'The clocks agree.'
        : `The provider’s clock is ${peopleDuration(duration(apart))} ${(account.clockAheadMs ?? 0) > 0 ? 'ahead' : 'behind'}.`}{/if}
    {#if mayAdminister && guide}<button class="link" onclick={() => (replacing = !replacing)} aria-expanded={replacing}
        >replace</button
      >{/if}
  </p>
  {#if replacing && guide}
    <form
      method="post"
      action="?/credential"
      class="mt-1 flex flex-wrap items-end gap-2 text-[13px]"
      use:enhance={() =>
        async ({ result, update }) => {
          await update();
          if (result.type === 'success') replacing = false;
        }}
    >
      <label
        >{guide.keyLabel}<input
          class="field num"
          name="keyId"
          value={account.keyId}
          autocomplete="off"
          required
        /></label
      >
      <label
        >{guide.secretLabel}<input class="field num" name="secret" type="password" autocomplete="off" required /></label
      >
      <button class="btn btn-main">Test and replace</button>
      <span class="text-quiet">Pulls go on with the old one until the new one is seen to work.</span>
    </form>
    {#if problem}<p class="fault mt-1 text-[13px]" role="alert">{problem}</p>{/if}
    {#if tried}<AccessChecks checks={tried} />{/if}
  {/if}
</section>
