<script lang="ts">
  import { outcomes, outcomeWords, type Closing, type Outcome } from '$lib/core/incident';

  interface Props {
    /** Whether its numbers still raise it. */
    isRaised: boolean;
    onSubmit: (closing: Closing) => Promise<void>;
    onCancel: () => void;
  }
  let { isRaised, onSubmit, onCancel }: Props = $props();
  let outcome = $state<Outcome>('fixed');
  let text = $state('');
  let isBusy = $state(false);
  let first: HTMLSelectElement;
  $effect(() => first.focus());
  const isMissing = $derived(outcome === 'other' && text.trim() === '');
  async function submit(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    isBusy = true;
    await onSubmit({ outcome, text });
    isBusy = false;
  }
</script>

<svelte:window
  onkeydown={(event: KeyboardEvent) => {
    if (event.key === 'Escape') onCancel();
  }}
/>
<form class="panel mt-2 flex max-w-[640px] flex-col gap-2 text-[13.5px]" aria-label="Close" onsubmit={submit}>
  <p class="flex flex-wrap items-center gap-2">
    <label for="outcome">It was</label>
    <select id="outcome" class="field w-auto!" bind:this={first} bind:value={outcome}>
      {#each outcomes as one (one)}<option value={one}>{outcomeWords[one]}</option>{/each}
    </select>
  </p>
  <input
    class="field"
    aria-label="What was done or found"
    placeholder={outcome === 'other' ? 'How it ended' : 'What was done or found (optional)'}
    maxlength="1000"
    bind:value={text}
  />
  {#if isRaised}<p class="text-quiet text-[13px]">
      It is still raised. Once closed, nobody is notified of it until it is raised anew, or becomes graver.
    </p>{/if}
  <p class="flex gap-2">
    <button class="btn btn-main" disabled={isBusy || isMissing}>{isRaised ? 'Close' : 'Save'}</button>
    <button type="button" class="btn" onclick={onCancel}>Cancel</button>
  </p>
</form>
