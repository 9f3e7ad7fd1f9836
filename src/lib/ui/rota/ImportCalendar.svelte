<script lang="ts">
  import { countOf, formOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '../api';

  interface Props {
    rotaId: number;
    nameOf: (personId: number) => string;
    onDone: (says: string) => void;
    onCancel: () => void;
  }
  let { rotaId, nameOf, onDone, onCancel }: Props = $props();
  interface Found {
    readonly overrides: readonly { readonly personId: number }[];
    readonly unknown: readonly { readonly summary: string }[];
  }
  /** What was found in the file, before anything is changed. */
  let found = $state.raw<(Found & { readonly text: string }) | null>(null);
  let problem = $state('');
  const people = $derived([...new Set((found?.overrides ?? []).map(({ personId }) => nameOf(personId)))]);

  async function read(text: string, apply: boolean): Promise<void> {
    const reply = await callApi<Found>('POST', `/rotas/${rotaId}/import`, { body: { text, apply } });
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    if (reply.kind !== 'answered') return;
    if (apply) onDone('The shifts of the calendar are in.');
    else found = { ...reply.answer, text };
  }
</script>

<div class="flex flex-col gap-2 text-[13px]">
  <label class="flex flex-col gap-1"
    >iCalendar file (.ics) of another program
    <input
      type="file"
      accept=".ics,text/calendar"
      onchange={async (event) => {
        const file = event.currentTarget.files?.[0];
        if (file) await read(await file.text(), false);
      }}
    /></label
  >
  {#if problem}<p class="fault" role="alert">{problem}</p>{/if}
  {#if found}
    <p role="status">
      {countOf(found.overrides.length, 'shift')} would be taken over{people.length > 0 ? `: ${people.join(', ')}` : ''}. {#if found.unknown.length > 0}<span
          class="fault"
          >{countOf(found.unknown.length, 'entry', 'entries')}
          {formOf(found.unknown.length, 'names', 'name')} nobody of this workspace, such as “{found.unknown[0]
            ?.summary}”.</span
        >{/if}
    </p>
  {/if}
  <div class="flex gap-2">
    {#if found}<button
        class="btn btn-main"
        disabled={found.overrides.length === 0}
        onclick={() => found && void read(found.text, true)}>Import them</button
      >{/if}
    <button class="btn" onclick={onCancel}>Cancel</button>
  </div>
</div>
