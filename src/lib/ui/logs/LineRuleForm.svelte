<script lang="ts">
  import { problemsOf } from '$lib/core/forms/problems';
  import { lineRuleSchema, secretKinds, secretNames, type LineRule, type SecretKind } from '$lib/core/logs';
  import { countOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '../api';
  import type { Acting } from '../people/acting.svelte';
  import type { Tried } from './tried';
  import TriedOnLines from './TriedOnLines.svelte';

  interface Props {
    accounts: readonly { id: number; name: string }[];
    /** Whether a rule can be tried: on lines that they may read. */
    mayTry: boolean;
    acting: Acting;
    /** @returns whether it is added */
    onAdd: (rule: LineRule) => Promise<boolean>;
  }
  let { accounts, mayTry, acting, onAdd }: Props = $props();

  let does = $state<LineRule['does']>('leave-out');
  let name = $state('');
  let account = $state<number | null>(null);
  let search = $state('');
  let kind = $state<SecretKind | 'expression'>('expression');
  let expression = $state('');
  const draft = $derived<LineRule>(
    does === 'leave-out'
      ? { does, name, account, search }
      : { does, name, account, masked: kind === 'expression' ? { kind, expression } : { kind } }
  );
  let problem = $state('');
  let tried = $state.raw<Tried | null>(null);
  let isTrying = $state(false);
  $effect(() => {
    void draft;
    tried = null; // it was of another rule
    problem = '';
  });
  /** The rule; null for one that cannot be one, of which it is said why. */
  function checked(named: LineRule): LineRule | null {
    const read = lineRuleSchema.safeParse(named);
    problem = read.success ? '' : (problemsOf(read.error)[0]?.message ?? '');
    return read.success ? read.data : null;
  }
  async function tryIt(): Promise<void> {
    // It need not have a name yet.
    const rule = checked({ ...draft, name: name.trim() === '' ? 'new' : name });
    if (rule === null) return;
    isTrying = true;
    const reply = await callApi<Tried>('POST', '/line-rules/try', { body: rule });
    isTrying = false;
    if (reply.kind === 'answered') tried = reply.answer;
    else if (reply.kind === 'refused') problem = wordsOf(reply.problem);
  }
  async function add(): Promise<void> {
    const rule = checked(draft);
    if (rule === null || !(await onAdd(rule))) return;
    name = '';
    search = '';
    expression = '';
  }
</script>

<section class="panel" aria-label="Add a rule">
  <header><h2>Add a rule</h2></header>
  <form
    class="flex flex-col gap-2 text-[13px]"
    onsubmit={(event) => {
      event.preventDefault();
      void add();
    }}
  >
    <fieldset class="sentence text-[15px]!">
      <select class="part" aria-label="What the rule does" bind:value={does}>
        <option value="leave-out">Leave out lines</option><option value="mask">Mask</option>
      </select>
      {#if does === 'leave-out'}
        that match <input
          class="part w-[26ch]"
          aria-label="Search for lines to leave out"
          placeholder="service = pricing and severity &lt; info"
          bind:value={search}
        />
      {:else}
        <select class="part" aria-label="What is masked" bind:value={kind}>
          <option value="expression">what matches</option>
          {#each secretKinds as one (one)}<option value={one}>every {secretNames[one]}</option>{/each}
        </select>
        {#if kind === 'expression'}<input
            class="part num w-[20ch]"
            aria-label="Expression"
            placeholder="ticket=(\w+)"
            bind:value={expression}
          />{/if}
        in lines
      {/if}
      of
      <select class="part" aria-label="Account" bind:value={account}>
        <option value={null}>all accounts</option>
        {#each accounts as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
      </select>.
    </fieldset>
    <label>Name <input class="field" maxlength="60" autocomplete="off" bind:value={name} /></label>
    {#if does === 'mask' && kind === 'expression'}<p class="text-quiet text-[12.5px]">
        An expression is RE2. Where it has a group, only the group is masked.
      </p>{/if}
    {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
    <div class="flex gap-2">
      <button class="btn btn-main" disabled={acting.busy}>Add it</button>
      {#if mayTry}<button type="button" class="btn" disabled={isTrying} onclick={tryIt}>Try it</button>{/if}
    </div>
    {#if tried !== null}
      <p role="status">
        {does === 'mask' ? 'It would mask something in' : 'It would leave out'}
        {countOf(tried.hits, 'line')} of {tried.tried.toLocaleString('en')} of the last day.
      </p>
      <TriedOnLines examples={tried.examples} />
    {/if}
  </form>
</section>
