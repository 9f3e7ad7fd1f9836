<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { outcomeText, type Closing } from '$lib/core/incident';
  import type { Scope } from '$lib/core/shelving';
  import type { Instant } from '$lib/core/time';
  import { callApi, wordsOf } from '../api';
  import ShelveForm from '../shelving/ShelveForm.svelte';
  import CloseForm from './CloseForm.svelte';
  import Moment from '../time/Moment.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    incident: {
      readonly id: number;
      readonly alarmId: number | null;
      readonly resource: string;
      readonly account: string;
      readonly closedAt: Instant | null;
      readonly acknowledgedBy: string | null;
      readonly shelvingId: number | null;
      /** When its numbers were clear again. */
      readonly clearAt: Instant | null;
      readonly outcome: (Closing & { readonly at: Instant; readonly by: string }) | null;
    };
    /** What holds messages about it back. */
    shelving: { readonly reason: string; readonly by: string; readonly until: Instant } | null;
    people: readonly { readonly id: number; readonly displayName: string }[];
    now: Instant;
  }
  let { incident, shelving, people, now }: Props = $props();
  const { mayEdit, personId } = useReader();
  let asking = $state<'shelve' | 'hand over' | 'close' | null>(null);
  let problem = $state('');
  let says = $state('');
  let to = $state(0);
  const scopes = $derived<{ text: string; scope: Partial<Scope> }[]>([
    ...(incident.alarmId !== null && incident.resource !== ''
      ? [
          {
            text: `this alarm on ${incident.resource}`,
            scope: { alarmIds: [incident.alarmId], resources: [incident.resource] }
          }
        ]
      : []),
    ...(incident.alarmId === null ? [] : [{ text: 'this alarm everywhere', scope: { alarmIds: [incident.alarmId] } }]),
    ...(incident.resource === ''
      ? []
      : [{ text: `everything on ${incident.resource}`, scope: { resources: [incident.resource] } }]),
    // Of what events raised about nothing that is known.
    ...(incident.alarmId === null && incident.resource === '' && incident.account !== ''
      ? [{ text: `everything of ${incident.account}`, scope: { accounts: [incident.account] } }]
      : [])
  ]);
  async function call(method: 'POST' | 'DELETE', path: string, body: object | undefined, told: string): Promise<void> {
    const reply = await callApi(method, path, body === undefined ? {} : { body });
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    if (reply.kind === 'answered') [asking, says] = [null, told];
    await invalidate('bussola:overview');
  }
  const me = $derived(people.find(({ id }) => id === personId)?.displayName ?? '');
  /** Shortcuts never fire where somebody types. */
  function onKey(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (event.ctrlKey || event.metaKey || event.altKey || target.closest('input, textarea, select, [contenteditable]'))
      return;
    if (event.key === 's' && mayEdit && incident.closedAt === null && scopes.length > 0) {
      asking = 'shelve';
      event.preventDefault();
    }
    if (event.key === 'c' && mayEdit && incident.outcome === null) {
      asking = 'close';
      event.preventDefault();
    }
    if (event.key === 'n') {
      const note = document.querySelector<HTMLTextAreaElement>('textarea[data-shortcut=n]');
      if (note) {
        note.focus();
        event.preventDefault();
      }
    }
  }
</script>

<svelte:window onkeydown={onKey} />
{#if shelving}
  <p class="mt-1 w-full text-[13.5px]" data-testid="shelved">
    <b>Shelved</b> until <Moment at={shelving.until} {now} /> by {shelving.by}: {shelving.reason}
    {#if mayEdit && incident.shelvingId !== null}<button
        class="link text-[13px]"
        onclick={() =>
          void call('DELETE', `/shelvings/${incident.shelvingId}`, undefined, 'It is not shelved any more.')}
        >End now</button
      >{/if}
  </p>
{/if}
{#if incident.outcome}
  <p class="mt-1 w-full text-[13.5px]" data-testid="outcome">
    <b>{incident.clearAt === null ? 'Closed while raised' : 'How it ended'}</b>: {outcomeText(incident.outcome)}
    <span class="text-quiet">({incident.outcome.by}, <Moment at={incident.outcome.at} {now} />)</span>
    {#if mayEdit && incident.clearAt === null}<button
        class="link text-[13px]"
        onclick={() => void call('DELETE', `/incidents/${incident.id}/close`, undefined, 'It is open again.')}
        >Open again</button
      >{/if}
  </p>
{:else if mayEdit && incident.closedAt !== null && asking !== 'close'}
  <p class="mt-2"><button class="btn" onclick={() => (asking = 'close')}>Say how it ended…</button></p>
{/if}
{#if mayEdit && incident.closedAt === null}
  <div class="mt-2 flex flex-wrap items-center gap-2">
    {#if incident.acknowledgedBy !== null && incident.acknowledgedBy !== me}<button
        class="btn"
        onclick={() => void call('POST', `/incidents/${incident.id}/hand-over`, { personId }, 'You look after it now.')}
        >Take over</button
      >{/if}
    {#if asking === 'hand over'}
      <select class="field w-auto!" aria-label="Hand over to" bind:value={to}>
        <option value={0} disabled hidden>Choose a person</option>
        {#each people.filter(({ id }) => id !== personId) as { id, displayName } (id)}<option value={id}
            >{displayName}</option
          >{/each}
      </select>
      <button
        class="btn btn-main"
        disabled={to === 0}
        onclick={() =>
          void call(
            'POST',
            `/incidents/${incident.id}/hand-over`,
            { personId: to },
            `${people.find(({ id }) => id === to)?.displayName} looks after it now.`
          )}>Hand over</button
      >
      <button class="btn" onclick={() => (asking = null)}>Cancel</button>
    {:else}
      <button class="btn" onclick={() => (asking = 'hand over')}>Hand over…</button>
      {#if shelving === null && scopes.length > 0}<button class="btn" onclick={() => (asking = 'shelve')}
          >Shelve…</button
        >{/if}
      {#if asking !== 'close'}<button class="btn" onclick={() => (asking = 'close')}>Close…</button>{/if}
    {/if}
  </div>
{/if}
{#if says}<p class="text-ok w-full text-[13px]" role="status">{says}</p>{/if}
{#if problem}<p class="fault w-full text-[13px]" role="alert">{problem}</p>{/if}
{#if asking === 'close'}
  <div class="w-full">
    <CloseForm
      isRaised={incident.clearAt === null}
      onSubmit={(closing: Closing) =>
        call(
          'POST',
          `/incidents/${incident.id}/close`,
          closing,
          incident.closedAt === null ? 'It is closed.' : 'How it ended is saved.'
        )}
      onCancel={() => (asking = null)}
    />
  </div>
{/if}
{#if asking === 'shelve'}
  <div class="mt-2 w-full">
    <ShelveForm
      kind="shelved"
      {scopes}
      {now}
      onDone={(text: string) => {
        [asking, says] = [null, text];
        void invalidate('bussola:overview');
      }}
      onCancel={() => (asking = null)}
    />
  </div>
{/if}
