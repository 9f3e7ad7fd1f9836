<script lang="ts">
  import { problemsOf } from '$lib/core/forms/problems';
  import { checkSchema, type Attempt, type Check } from '$lib/core/reachability';
  import { callApi, wordsOf } from '../api';
  import AttemptDetails from './AttemptDetails.svelte';

  /** The check as it stands in the form. */
  let { check }: { check: Check } = $props();
  let made = $state.raw<Attempt | null>(null);
  let problem = $state('');
  let busy = $state(false);

  async function tryNow(): Promise<void> {
    // It need not have a name yet.
    const read = checkSchema.safeParse({
      ...$state.snapshot(check),
      name: check.name.trim() === '' ? 'new' : check.name
    });
    if (!read.success) {
      [made, problem] = [null, problemsOf(read.error)[0]?.message ?? ''];
      return;
    }
    busy = true;
    const reply = await callApi<Attempt>('POST', '/checks/try', { body: read.data });
    busy = false;
    if (reply.kind === 'answered') [made, problem] = [reply.answer, ''];
    else if (reply.kind === 'refused') [made, problem] = [null, wordsOf(reply.problem)];
  }
</script>

<section class="panel" aria-label="Try it">
  <header>
    <h2>Try it</h2>
    <small>once, as it is written above</small>
    <button class="btn ml-auto" disabled={busy} onclick={tryNow}>{busy ? 'Trying' : 'Try now'}</button>
  </header>
  {#if problem !== ''}<p class="fault text-[13px]" role="alert">{problem}</p>
  {:else if made !== null}<div role="status"><AttemptDetails attempt={made} /></div>
  {:else}<p class="text-quiet text-[13px]">
      See what comes back, and where the time goes, before you save it. Nothing is stored.
    </p>{/if}
</section>
