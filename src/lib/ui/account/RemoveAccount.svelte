<script lang="ts">
  import { enhance } from '$app/forms';
  import { countOf, formOf } from '$lib/core/words/count';

  interface Props {
    account: string;
    /** Other programs send samples to it by a key, which is revoked. */
    isPushed: boolean;
    /** Alarms, boards, signals and derived metrics that name it. */
    uses: readonly { kind: string; id: number; name: string }[];
  }
  let { account, isPushed, uses }: Props = $props();
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
      {#if uses.length > 0}<p class="mb-1.5">
          <b class="text-major">!</b>
          {countOf(uses.length, 'definition')}
          {formOf(uses.length, 'names', 'name')} this account:
          {uses
            .slice(0, 6)
            .map(({ kind, name }) => `${name} (${kind})`)
            .join(', ')}{uses.length > 6 ? ` and ${uses.length - 6} more` : ''}. Alarms no longer watch it.
        </p>{/if}
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
