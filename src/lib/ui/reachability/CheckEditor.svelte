<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { problemsOf } from '$lib/core/forms/problems';
  import {
    checkSchema,
    emptyTarget,
    everyWords,
    intervalSeconds,
    mostRetries,
    targetKinds,
    type Check,
    type TargetKind
  } from '$lib/core/reachability';
  import AskedButton from '../forms/AskedButton.svelte';
  import ChangedElsewhere from '../forms/ChangedElsewhere.svelte';
  import { Elsewhere } from '../forms/elsewhere.svelte';
  import { Acting } from '../people/acting.svelte';
  import Outcome from '../people/Outcome.svelte';
  import { useReader } from '../time/reader';
  import TargetParts from './TargetParts.svelte';
  import TriedCheck from './TriedCheck.svelte';

  interface Props {
    /** What is stored; null for a new one. */
    stored: { readonly id: number; readonly check: Check; readonly version: number; readonly changedBy: string } | null;
    check: Check;
  }
  let { stored, check: given }: Props = $props();
  const { mayEdit } = useReader();
  const acting = new Acting();
  let check = $state(untrack(() => structuredClone(given)));
  let version = $state(untrack(() => stored?.version ?? 0));
  const elsewhere = new Elsewhere<Check>({
    stored: () => stored?.check ?? given,
    mine: () => check,
    take: (theirs) => {
      check = structuredClone($state.snapshot<Check>(theirs));
      version = stored?.version ?? 0;
    }
  });
  const kindWords: Readonly<Record<TargetKind, string>> = { http: 'HTTP', tcp: 'TCP', dns: 'DNS' };
  const everyChoices = $derived([...new Set([...intervalSeconds, check.every])].sort((one, other) => one - other));
  const withinChoices = $derived([...new Set([1, 2, 3, 5, 10, 20, 30, check.within])].sort((a, b) => a - b));
  let problem = $state('');

  async function save(): Promise<void> {
    const read = checkSchema.safeParse($state.snapshot(check));
    problem = read.success ? '' : (problemsOf(read.error)[0]?.message ?? '');
    if (!read.success) return;
    if (stored === null) {
      const made = await acting.call<{ id: number }>('POST', '/checks', { body: read.data });
      if (made !== null) await goto(`/checks/${made.answer.id}`);
      return;
    }
    const saved = await acting.call<{ version: number }>(
      'PUT',
      `/checks/${stored.id}`,
      { body: { check: read.data, version } },
      'The check is saved, and made anew at once.'
    );
    if (saved !== null) version = saved.answer.version;
  }
  async function remove(): Promise<void> {
    if (stored === null) return;
    if ((await acting.call('DELETE', `/checks/${stored.id}`)) !== null) await goto('/checks');
  }
</script>

<Outcome {acting} />
{#if stored !== null && elsewhere.theirs !== null && mayEdit}<ChangedElsewhere
    what="this check"
    by={stored.changedBy}
    onTheirs={() => elsewhere.takeTheirs()}
    onMine={() => {
      elsewhere.keepMine();
      version = stored.version;
    }}
  />{/if}
<form
  class="panel mb-2.5 flex flex-col gap-3 text-[13px]"
  aria-label="Reachability check"
  onsubmit={(event) => {
    event.preventDefault();
    void save();
  }}
>
  <label
    >Name <input
      class="field"
      maxlength="120"
      autocomplete="off"
      placeholder="Ticket site"
      disabled={!mayEdit}
      bind:value={check.name}
    /></label
  >
  <fieldset class="sentence text-[15px]!" disabled={!mayEdit}>
    <legend class="sr-only">What is checked, how often, and when it is down</legend>
    <p>
      Every
      <select class="part" aria-label="How often" bind:value={check.every}
        >{#each everyChoices as seconds (seconds)}<option value={seconds}>{everyWords(seconds)}</option>{/each}</select
      >, by
      <select
        class="part"
        aria-label="Kind of check"
        value={check.target.kind}
        onchange={(event) =>
          (check.target = emptyTarget(targetKinds.find((one) => one === event.currentTarget.value) ?? 'http'))}
        >{#each targetKinds as kind (kind)}<option value={kind}>{kindWords[kind]}</option>{/each}</select
      >,
      <TargetParts
        target={check.target}
        disabled={!mayEdit}
        onChange={(target: Check['target']) => (check.target = target)}
      />, within
      <select class="part" aria-label="Time limit" bind:value={check.within}
        >{#each withinChoices as seconds (seconds)}<option value={seconds}>{seconds} s</option>{/each}</select
      >.
    </p>
    <p class="mt-2">
      It is down
      <select class="part" aria-label="Retries" bind:value={check.retries}
        >{#each { length: mostRetries + 1 } as _, retries (retries)}<option value={retries}
            >{retries === 0
              ? 'at the first failure'
              : retries === 1
                ? 'when one retry has failed, too'
                : `when ${retries} retries have failed, too`}</option
          >{/each}</select
      >.
    </p>
  </fieldset>
  <label class="flex items-center gap-2"
    ><input type="checkbox" disabled={!mayEdit} bind:checked={check.enabled} /> It is on</label
  >
  {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
  {#if mayEdit}
    <div class="flex flex-wrap items-center gap-2">
      <button class="btn btn-main" disabled={acting.busy}>{stored === null ? 'Add the check' : 'Save'}</button>
      {#if stored !== null}
        <AskedButton
          label="Remove"
          question="Remove it? Its history stays."
          disabled={acting.busy}
          onConfirm={() => void remove()}
        />
      {/if}
    </div>
  {/if}
</form>
{#if mayEdit}<TriedCheck {check} />{/if}
