<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { problemsOf } from '$lib/core/forms/problems';
  import { readTargetLines, targetLines, targetsSchema, type Targets } from '$lib/core/targets';
  import { Acting } from '../people/acting.svelte';
  import Outcome from '../people/Outcome.svelte';
  import { useReader } from '../time/reader';
  import PageRules from './PageRules.svelte';
  import SignInParts from './SignInParts.svelte';
  import TriedPages from './TriedPages.svelte';

  interface Props {
    /** The account; null for a new one. */
    accountId: number | null;
    /** What it reads, or what a new one begins with. */
    definition: Targets;
  }
  let { accountId, definition: given }: Props = $props();
  const { mayAdminister } = useReader();
  const acting = new Acting();
  let name = $state('');
  let definition = $state(untrack(() => structuredClone(given)));
  let lines = $state(untrack(() => (given.find.by === 'list' ? targetLines(given.find.targets) : '')));
  let secret = $state('');
  let problem = $state('');
  const example = 'http://192.0.2.7:9000/metrics quote-1 site=perla\nhttp://192.0.2.8:9000/metrics quote-2 site=sella';
  const listed = $derived(readTargetLines(lines));
  const everyChoices = $derived(
    [...new Set([5, 10, 15, 30, 60, 300, 900, 1800, definition.everySeconds])].sort((a, b) => a - b)
  );
  const patienceChoices = $derived(
    [...new Set([1, 2, 5, 10, 20, 30, definition.patienceSeconds])].sort((a, b) => a - b)
  );
  const secondsWords = (seconds: number): string => (seconds < 60 ? `${seconds} s` : `${seconds / 60} min`);

  function find(by: string): void {
    if (by === 'http') definition.find = { by, url: '' };
    else if (by === 'file') definition.find = { by, file: '' };
    else definition.find = { by: 'list', targets: [] };
  }

  /** What is written, checked; null where something is wrong, which is shown. */
  function checked(): Targets | null {
    const written = $state.snapshot(definition);
    if (written.find.by === 'list') {
      const [first] = listed.problems;
      if (first !== undefined) {
        problem = `Line ${first.line}: ${first.message}`;
        return null;
      }
      written.find = { by: 'list', targets: [...listed.targets] };
    }
    const read = targetsSchema.safeParse(written);
    problem = read.success ? '' : (problemsOf(read.error)[0]?.message ?? '');
    return read.success ? read.data : null;
  }

  async function save(): Promise<void> {
    const body = checked();
    if (body === null) return;
    if (accountId === null) {
      const made = await acting.call<{ id: number }>('POST', '/accounts/pages', {
        body: { name, definition: body, secret }
      });
      if (made !== null) await goto(`/accounts/${made.answer.id}`);
      return;
    }
    const saved = await acting.call('PUT', `/accounts/${accountId}/pages`, { body: { definition: body, secret } });
    if (saved !== null) await goto(`/accounts/${accountId}`);
  }
</script>

<Outcome {acting} />
<form
  class="panel mb-2.5 flex flex-col gap-3 text-[13px]"
  aria-label="Which pages are read, and how"
  onsubmit={(event) => {
    event.preventDefault();
    void save();
  }}
>
  {#if accountId === null}
    <label
      >Name in Bussola <input
        class="field"
        maxlength="60"
        autocomplete="off"
        placeholder="harbour-exporters"
        bind:value={name}
      /></label
    >
  {/if}
  <fieldset class="sentence text-[15px]!" disabled={!mayAdminister}>
    <legend class="sr-only">Where the pages are, and how often they are read</legend>
    <p>
      Read
      <select
        class="part"
        aria-label="Where the pages are listed"
        value={definition.find.by}
        onchange={(event) => find(event.currentTarget.value)}
        ><option value="list">the pages listed below</option><option value="http"
          >the pages that another program lists at</option
        ><option value="file">the pages that are listed in the file</option></select
      >{#if definition.find.by === 'http'}
        <input
          class="part w-[36ch] max-w-full"
          type="url"
          aria-label="Address of the list"
          placeholder="https://inventory.example.test/pages.json"
          bind:value={definition.find.url}
        />{:else if definition.find.by === 'file'}
        <input
          class="part w-[20ch]"
          aria-label="File"
          placeholder="fleet.json"
          bind:value={definition.find.file}
        />{/if}, every
      <select class="part" aria-label="How often" bind:value={definition.everySeconds}
        >{#each everyChoices as seconds (seconds)}<option value={seconds}>{secondsWords(seconds)}</option
          >{/each}</select
      >, each within
      <select class="part" aria-label="Time limit" bind:value={definition.patienceSeconds}
        >{#each patienceChoices as seconds (seconds)}<option value={seconds}>{seconds} s</option>{/each}</select
      >.
    </p>
    <SignInParts bind:signIn={definition.signIn} bind:secret hasSecret={accountId !== null} />
    <p class="mt-2">
      Take
      <input
        class="part w-[10ch]"
        type="number"
        min="1"
        max="1000000"
        aria-label="Most series"
        bind:value={definition.mostSeries}
      /> series at most.
    </p>
  </fieldset>
  {#if definition.find.by === 'list'}
    <label
      >Pages, one a line: address, name if wanted, labels as <code class="num">name=value</code>
      <textarea
        class="field num min-h-[120px] w-full text-[13px]!"
        spellcheck="false"
        aria-label="Pages"
        placeholder={example}
        disabled={!mayAdminister}
        bind:value={lines}></textarea></label
    >
    {#if listed.problems.length > 0}<ul class="fault" role="alert">
        {#each listed.problems.slice(0, 5) as one (one.line)}<li>Line {one.line}: {one.message}</li>{/each}
      </ul>{/if}
  {:else}
    <p class="text-quiet">
      The list is JSON: <code class="num"
        >{'{"targets": [{"url": "http://192.0.2.7:9000/metrics", "name": "quote-1", "labels": {"site": "perla"}}]}'}</code
      >. Bussola reads it every minute.
    </p>
  {/if}
  <details>
    <summary class="link w-fit">Trust another authority for HTTPS</summary>
    <label class="mt-1 block"
      >Certificate of the authority (PEM)
      <textarea
        class="field num min-h-[90px] w-full text-[12px]!"
        spellcheck="false"
        disabled={!mayAdminister}
        value={definition.authority ?? ''}
        oninput={(event) => {
          const { value } = event.currentTarget;
          if (value.trim() === '') delete definition.authority;
          else definition.authority = value;
        }}></textarea></label
    >
  </details>
  <PageRules bind:rules={definition.rules} disabled={!mayAdminister} />
  {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
  {#if mayAdminister}<div class="flex gap-2">
      <button class="btn btn-main" disabled={acting.busy}>{accountId === null ? 'Connect' : 'Save'}</button>
      <a class="btn" href={accountId === null ? '/accounts' : `/accounts/${accountId}`}>Cancel</a>
    </div>{/if}
</form>
{#if mayAdminister}<TriedPages {accountId} {checked} secret={() => secret} />{/if}
