<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { namesIn, type RoutingChoices } from '$lib/core/notify/route';
  import { occurrenceAt, scopeText, type Shelving } from '$lib/core/shelving';
  import type { Instant } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '../api';
  import Moment from '../time/Moment.svelte';
  import { useReader } from '../time/reader';
  import ShelveForm from './ShelveForm.svelte';

  interface Props {
    shelvings: readonly {
      readonly id: number;
      readonly shelving: Shelving;
      readonly active: boolean;
      readonly createdBy: string;
      readonly held: { readonly open: number; readonly clear: number };
    }[];
    choices: RoutingChoices;
    alarms: readonly { readonly id: number; readonly name: string }[];
    resources: readonly { readonly name: string }[];
    now: Instant;
  }
  let { shelvings, choices, alarms, resources, now }: Props = $props();
  const { mayEdit } = useReader();
  const names = $derived(namesIn(choices));
  const alarmOf = (id: number) => alarms.find((alarm) => alarm.id === id)?.name ?? 'an alarm that was removed';
  let isPlanning = $state(false);
  let problem = $state('');
  async function end(id: number): Promise<void> {
    const reply = await callApi('DELETE', `/shelvings/${id}`);
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    await invalidate('bussola:overview');
  }
</script>

<section class="panel" aria-label="Held back">
  <header>
    <h2>Held back</h2>
    <small>shelved, and in maintenance</small>
    {#if mayEdit && !isPlanning}<button class="btn ml-auto" onclick={() => (isPlanning = true)}
        >Plan maintenance…</button
      >{/if}
  </header>
  {#if isPlanning}<ShelveForm
      kind="maintenance"
      {choices}
      {resources}
      {now}
      onDone={() => {
        isPlanning = false;
        void invalidate('bussola:overview');
      }}
      onCancel={() => (isPlanning = false)}
    />{/if}
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  <table class="rows">
    <tbody>
      {#each shelvings as { id, shelving, active, createdBy, held } (id)}
        {@const occurrence = occurrenceAt(shelving, now)}
        <tr data-shelving={id}>
          <td
            >{scopeText(shelving.scope, names, alarmOf)}<span class="text-quiet block text-[12px]"
              >{shelving.kind}, {createdBy}: {shelving.reason}</span
            ></td
          >
          <td class="whitespace-nowrap"
            >{#if occurrence}{#if active}until <Moment at={occurrence.to} {now} />{:else}<Moment
                  at={occurrence.from}
                  {now}
                /> to <Moment at={occurrence.to} {now} />{/if}{/if}{#if shelving.recurs}<span
                class="text-quiet block text-[12px]">recurs</span
              >{/if}</td
          >
          <td class="right whitespace-nowrap"
            >{#if held.open + held.clear > 0}{countOf(held.open, 'incident')} held back{#if held.clear > 0}, {held.clear}
                clear already{/if}{/if}</td
          >
          <td class="right"
            >{#if mayEdit}<button class="btn" onclick={() => void end(id)}>{active ? 'End now' : 'Cancel'}</button
              >{/if}</td
          >
        </tr>
      {:else}<tr><td class="text-quiet">Nothing is held back.</td></tr>{/each}
    </tbody>
  </table>
</section>
