<script lang="ts">
  import { untrack } from 'svelte';
  import { beforeNavigate, goto, invalidateAll } from '$app/navigation';
  import type { FieldProblem } from '$lib/core/problem/problem';
  import { callApi, wordsOf } from '../api';
  import AskedButton from '../forms/AskedButton.svelte';
  import CodeField from '../forms/code/CodeField.svelte';
  import FileProblems from '../forms/FileProblems.svelte';
  import type { ShownRecording, TriedPart } from './connector-answers';
  import { loadConnectorLanguage } from './load-language';
  import Exchanges from './Exchanges.svelte';
  import Recordings from './Recordings.svelte';
  import TryPart from './TryPart.svelte';

  interface Props {
    /** What is stored; null for a new one. */
    connector: {
      readonly id: number;
      readonly name: string;
      readonly text: string;
      readonly version: number;
      readonly recordings: readonly ShownRecording[];
    } | null;
    /** What a new one begins with. */
    begin: string;
    accounts: readonly { readonly id: number; readonly name: string }[];
  }
  let { connector, begin, accounts }: Props = $props();
  let text = $state(untrack(() => connector?.text ?? begin));
  let saved = $state(untrack(() => connector?.text ?? begin));
  let version = $state(untrack(() => connector?.version ?? 0));
  let tried = $state.raw<TriedPart | null>(null);
  let problems = $state.raw<readonly FieldProblem[]>([]);
  let problem = $state('');
  let done = $state('');
  let busy = $state(false);
  const isChanged = $derived(text !== saved);

  beforeNavigate(({ cancel, willUnload }) => {
    if (!isChanged) return;
    if (willUnload || !confirm('What you wrote is not saved. Leave the page?')) cancel();
  });

  async function save(): Promise<void> {
    busy = true;
    [problem, done, problems] = ['', '', []];
    const written = text;
    const reply =
      connector === null
        ? await callApi<{ id: number }>('POST', '/connectors', { body: { text: written } })
        : await callApi('PUT', `/connectors/${connector.id}`, { body: { text: written, version } });
    busy = false;
    if (reply.kind === 'refused') {
      if (reply.problem.problems) problems = reply.problem.problems;
      else problem = wordsOf(reply.problem);
      return;
    }
    if (reply.kind !== 'answered') return;
    saved = written;
    if (connector === null) {
      await goto(`/connectors/${(reply.answer as { id: number }).id}`);
      return;
    }
    version++;
    done = 'Saved. Its accounts are read by it from now on.';
    await invalidateAll();
  }

  async function remove(id: number): Promise<void> {
    const reply = await callApi('DELETE', `/connectors/${id}`);
    if (reply.kind === 'refused') {
      problem = wordsOf(reply.problem);
      return;
    }
    saved = text;
    await goto('/connectors');
  }
</script>

<div class="mb-2.5 grid grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)] items-start gap-2.5 max-lg:grid-cols-1">
  <section class="panel" aria-label="The file">
    <header>
      <h2>The file</h2>
      <small
        ><a class="link" href="/api/v1/schemas/connector">JSON Schema</a>{isChanged
          ? ', changed and not saved'
          : ''}</small
      >
      <span class="ml-auto flex items-center gap-2">
        {#if connector !== null}<AskedButton
            label="Remove"
            question="Remove this connector with its recordings?"
            disabled={busy}
            onConfirm={() => void remove(connector.id)}
          />{/if}
        <button class="btn btn-main" disabled={busy || (connector !== null && !isChanged)} onclick={save}>Save</button>
      </span>
    </header>
    {#if problem !== ''}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
    {#if done !== ''}<p class="text-[13px]" role="status">{done}</p>{/if}
    <div class="text-[13px]"><FileProblems {problems} /></div>
    <div class="h-[46vh] min-h-[330px]">
      <CodeField
        {text}
        label="The connector as a file"
        language={loadConnectorLanguage}
        onChange={(next: string) => (text = next)}
      />
    </div>
  </section>
  <div class="flex min-w-0 flex-col gap-2.5">
    <TryPart
      connectorId={connector?.id ?? null}
      text={() => text}
      {accounts}
      onTried={(what: TriedPart | null) => {
        tried = what;
      }}
      onRecorded={() => void invalidateAll()}
    />
    {#if connector !== null}<Recordings
        connectorId={connector.id}
        recordings={connector.recordings}
        text={() => text}
        onRemoved={() => void invalidateAll()}
      />{/if}
  </div>
</div>
{#if tried !== null}<Exchanges {tried} />{/if}
