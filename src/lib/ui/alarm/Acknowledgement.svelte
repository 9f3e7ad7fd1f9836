<script lang="ts">
  import { invalidate } from '$app/navigation';
  import type { Instant } from '$lib/core/time';
  import { callApi, wordsOf } from '../api';
  import Moment from '../time/Moment.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    incident: {
      readonly id: number;
      readonly closedAt: Instant | null;
      readonly acknowledgedAt: Instant | null;
      readonly acknowledgedBy: string | null;
    };
    now: Instant;
  }
  let { incident, now }: Props = $props();
  const { mayEdit } = useReader();
  let problem = $state('');
  let isBusy = $state(false);

  async function send(method: 'POST' | 'DELETE'): Promise<void> {
    isBusy = true;
    const reply = await callApi(method, `/incidents/${incident.id}/acknowledge`);
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    isBusy = false;
    await invalidate('bussola:overview');
  }
  /** Never where somebody types, and never with a modifier that belongs to the browser. */
  function onKey(event: KeyboardEvent): void {
    if (event.key !== 'a' || event.ctrlKey || event.metaKey || event.altKey) return;
    if (
      event.target instanceof HTMLElement &&
      event.target.closest('input, textarea, select, dialog, [contenteditable="true"]')
    )
      return;
    if (!mayEdit || isBusy || incident.closedAt !== null || incident.acknowledgedAt !== null) return;
    event.preventDefault();
    void send('POST');
  }
</script>

<svelte:window onkeydown={onKey} />

{#if incident.acknowledgedAt !== null}
  <p class="mt-1 flex flex-wrap items-center gap-2 text-[13.5px]" data-testid="acknowledged">
    <span><b>{incident.acknowledgedBy}</b> looks after it, since <Moment at={incident.acknowledgedAt} {now} />.</span>
    {#if mayEdit && incident.closedAt === null}<button
        class="link text-[13px]"
        disabled={isBusy}
        onclick={() => void send('DELETE')}>Take it back</button
      >{/if}
  </p>
{:else if mayEdit && incident.closedAt === null}
  <p class="mt-2"><button class="btn" disabled={isBusy} onclick={() => void send('POST')}>Acknowledge</button></p>
{/if}
{#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
