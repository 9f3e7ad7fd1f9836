<script lang="ts">
  import { enhance } from '$app/forms';

  interface Props {
    account: string;
    /** Other programs send samples to it by a key, which is revoked. */
    isPushed: boolean;
  }
  let { account, isPushed }: Props = $props();
  let asking = $state(false);
  let history = $state<'keep' | 'erase'>('keep');
</script>

<section class="panel" aria-label="Remove this account">
  <header>
    <h2>Remove this account</h2>
    {#if !asking}<button class="btn ml-auto" onclick={() => (asking = true)}>Remove…</button>{/if}
  </header>
  {#if asking}
    <form method="post" action="?/remove" use:enhance class="text-[13px]">
      <p class="mb-1.5">
        Nothing more is collected from {account}, {isPushed ? 'its keys are revoked' : 'its credential is erased'}, and
        its open incidents are closed. Incidents and messages stay in the history either way.
      </p>
      <fieldset class="mb-2 flex flex-col gap-1">
        <legend class="sr-only">What was collected from it</legend>
        <label class="flex gap-2"
          ><input type="radio" name="history" value="keep" bind:group={history} /><span
            ><b>Keep its history.</b> Boards still show it for as long as its retention says. Connecting an account with the
            same name and provider continues it.</span
          ></label
        >
        <label class="flex gap-2"
          ><input type="radio" name="history" value="erase" bind:group={history} /><span
            ><b>Erase its history too:</b> samples, resources, events and plans. This cannot be undone.</span
          ></label
        >
      </fieldset>
      <button class="btn btn-main">{history === 'keep' ? 'Remove account' : 'Remove account and erase history'}</button>
      <button type="button" class="btn" onclick={() => (asking = false)}>Cancel</button>
    </form>
  {:else}<p class="text-quiet text-[13px]">Ends its collection. You choose whether its history stays.</p>{/if}
</section>
