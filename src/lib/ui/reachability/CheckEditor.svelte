<script lang="ts">
  import { untrack } from 'svelte';
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
  import DefinitionForm from '../forms/DefinitionForm.svelte';
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
  let check = $state(untrack(() => structuredClone(given)));
  const kindWords: Readonly<Record<TargetKind, string>> = { http: 'HTTP', tcp: 'TCP', dns: 'DNS' };
  const everyChoices = $derived([...new Set([...intervalSeconds, check.every])].sort((one, other) => one - other));
  const withinChoices = $derived([...new Set([1, 2, 3, 5, 10, 20, 30, check.within])].sort((a, b) => a - b));
</script>

<DefinitionForm
  stored={stored && { ...stored, value: stored.check }}
  bind:value={check}
  {given}
  schema={checkSchema}
  path="/checks"
  field="check"
  what="check"
  label="Reachability check"
  example="Ticket site"
  back="/checks"
  made={(id) => `/checks/${id}`}
  saved="The check is saved, and made anew at once."
  question="Remove it? Its history stays."
  class="mb-2.5"
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
</DefinitionForm>
{#if mayEdit}<TriedCheck {check} />{/if}
