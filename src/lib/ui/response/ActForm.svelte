<script lang="ts">
  import { onMount } from 'svelte';
  import {
    abilityText,
    actName,
    actionText,
    type Abilities,
    type ProviderAct,
    type ProviderAction
  } from '$lib/core/response';
  import { callApi, wordsOf } from '../api';

  interface Props {
    resource: { readonly id: number; readonly name: string };
    /** The incident that it is done about; null for none. */
    incidentId: number | null;
    onDone: (says: string) => void;
    onCancel: () => void;
  }
  let { resource, incidentId, onDone, onCancel }: Props = $props();
  let abilities = $state.raw<Abilities | null>(null);
  let problem = $state('');
  let kind = $state<ProviderAct | null>(null);
  let size = $state('');
  let count = $state<number | null>(null);
  let foretold = $state.raw<{ readonly says: readonly string[]; readonly isDangerous: boolean } | null>(null);
  let typed = $state('');
  let isBusy = $state(false);
  /** The same for every try of one order, so that one that is sent twice is done once. */
  let key = $state('');

  const possible = $derived(
    abilities === null
      ? []
      : abilities.kinds.filter((one) => (one === 'start') === abilities?.isStopped || one === 'count')
  );
  const action = $derived<ProviderAction | null>(
    kind === null
      ? null
      : kind === 'size'
        ? size === ''
          ? null
          : { kind, size }
        : kind === 'count'
          ? count === null
            ? null
            : { kind, to: count }
          : { kind }
  );

  /** What is asked of, by value: a page that is read anew has the same, and nothing that is typed is lost by it. */
  const subject = $derived(JSON.stringify([resource.id, incidentId]));

  onMount(async () => {
    const reply = await callApi<Abilities>('GET', `/resources/${resource.id}/abilities`);
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    if (reply.kind === 'answered') {
      abilities = reply.answer;
      count = reply.answer.count?.now ?? null;
    }
  });

  /** Asks what would come of what is chosen now; an answer to what was chosen before is left. */
  $effect(() => {
    const asked = action;
    const [id, about] = JSON.parse(subject) as [number, number | null];
    foretold = null;
    typed = '';
    key = crypto.randomUUID();
    if (asked === null) return;
    const ending = new AbortController();
    void callApi<{ says: string[]; isDangerous: boolean }>('POST', `/resources/${id}/foretell`, {
      body: { action: asked, incidentId: about },
      signal: ending.signal
    }).then((reply) => {
      problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
      if (reply.kind === 'answered') foretold = reply.answer;
    });
    return () => ending.abort();
  });

  async function act(): Promise<void> {
    if (action === null || foretold === null) return;
    isBusy = true;
    const body = { action, incidentId, confirmed: foretold.isDangerous ? typed.trim() : null };
    const reply = await callApi<{ text: string }>('POST', `/resources/${resource.id}/acts`, { body, key });
    isBusy = false;
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    if (reply.kind === 'answered') onDone(`${resource.name}: ${reply.answer.text}`);
  }
</script>

<form
  class="panel flex flex-col gap-2 text-[13px]"
  aria-label="Act on {resource.name}"
  onsubmit={(event) => {
    event.preventDefault();
    void act();
  }}
>
  {#if abilities === null && problem === ''}<p class="text-quiet" role="status">Asking its provider …</p>{/if}
  {#if abilities !== null}
    {#if possible.length === 0}
      <p>Nothing can be done with {resource.name} from here.</p>
    {:else}
      <p class="sentence text-[15px]!">
        <select class="part" aria-label="What to do" bind:value={kind}>
          <option value={null} disabled hidden>Choose what to do</option>
          {#each possible as one (one)}<option value={one}>{actName(one)}</option>{/each}
        </select>
        {kind === 'size' || kind === 'count' ? 'of' : ''}
        <b>{resource.name}</b>
        {#if kind === 'size' && abilities.size !== null}to
          <select class="part" aria-label="Size" bind:value={size}>
            <option value="" disabled hidden>a size</option>
            {#each abilities.size.choices.filter((one) => one !== abilities?.size?.now) as one (one)}<option
                >{one}</option
              >{/each}
          </select>{/if}
        {#if kind === 'count' && abilities.count !== null}to
          <input
            class="part w-[60px]"
            aria-label="Count"
            type="number"
            min={abilities.count.least}
            max={abilities.count.most}
            bind:value={count}
          />{/if}
        <span class="text-quiet text-[13px]">{abilityText(abilities)}</span>
      </p>
    {/if}
  {/if}
  {#if foretold !== null}
    <ul class="list-disc pl-5" aria-label="What would happen">
      {#each foretold.says as one, index (index)}<li>{one}</li>{/each}
    </ul>
    {#if foretold.isDangerous}<label
        >Type <b>{resource.name}</b> to confirm
        <input class="field w-auto!" aria-label="Name of the resource" autocomplete="off" bind:value={typed} /></label
      >{/if}
  {/if}
  {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
  <div class="flex gap-2">
    {#if action !== null}<button
        class="btn btn-main"
        disabled={isBusy || foretold === null || (foretold.isDangerous && typed.trim() !== resource.name)}
        >{isBusy ? 'Its provider is told …' : `Do it: ${actionText(action)}`}</button
      >{/if}
    <button type="button" class="btn" onclick={onCancel}>Cancel</button>
  </div>
</form>
