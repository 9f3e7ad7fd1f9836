<script lang="ts">
  import { callApi, wordsOf } from '../api';
  import AskedButton from '../forms/AskedButton.svelte';
  import type { ShownRecording } from './connector-answers';
  import { partNames } from './connector-language';

  interface Props {
    connectorId: number;
    recordings: readonly ShownRecording[];
    text: () => string;
    onRemoved: () => void;
  }
  let { connectorId, recordings, text, onRemoved }: Props = $props();
  interface Result {
    readonly id: number;
    readonly passed: boolean;
    readonly says: string | null;
  }
  let results = $state.raw<ReadonlyMap<number, Result>>(new Map());
  let problem = $state('');
  let busy = $state(false);
  const failed = $derived([...results.values()].filter(({ passed }) => !passed).length);

  async function test(): Promise<void> {
    busy = true;
    problem = '';
    const body = { text: text() };
    const reply = await callApi<{ results: Result[] }>('POST', `/connectors/${connectorId}/test`, { body });
    busy = false;
    if (reply.kind === 'answered') results = new Map(reply.answer.results.map((one) => [one.id, one]));
    else if (reply.kind === 'refused') problem = wordsOf(reply.problem);
  }

  async function remove(id: number): Promise<void> {
    const reply = await callApi('DELETE', `/connectors/${connectorId}/recordings/${id}`);
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    else onRemoved();
  }
</script>

<section class="panel text-[13px]" aria-label="Recordings">
  <header>
    <h2>Recordings</h2>
    <small
      >{results.size === 0
        ? 'requests with their answers, to test on without the provider'
        : failed === 0
          ? 'all passed'
          : `${failed} of ${results.size} failed`}</small
    >
    {#if recordings.length > 0}<button class="btn ml-auto" disabled={busy} onclick={test}
        >{busy ? 'Testing' : 'Test on them'}</button
      >{/if}
  </header>
  {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
  {#if recordings.length === 0}<p class="text-quiet">
      None. Try a part, then record it: the file is tested on it from then on, whatever you change.
    </p>{:else}
    <table class="rows">
      <tbody>
        {#each recordings as { id, name, part, madeBy } (id)}
          {@const result = results.get(id)}
          <tr>
            <td>{name}<span class="text-quiet block text-[12px]">{partNames[part]}, by {madeBy}</span></td>
            <td>
              {#if result?.passed}passed{:else if result}<span class="fault">! {result.says}</span>{/if}
            </td>
            <td class="text-right"
              ><AskedButton label="Remove" question="Remove it?" onConfirm={() => void remove(id)} /></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</section>
