<script lang="ts">
  import FileProblems from '../../../forms/FileProblems.svelte';
  import { callApi, answerOrNull, wordsOf } from '../../../api';
  import { goto } from '$app/navigation';
  import type { FieldProblem } from '$lib/core/problem/problem';
  import type { BoardMapping } from '$lib/core/board';
  import { withRange } from '../../../time/shown';
  import CodeField from '../../../forms/code/CodeField.svelte';

  interface Unknown {
    readonly of: 'metric' | 'value';
    readonly label: string;
    readonly name: string;
    readonly candidates: readonly string[];
  }
  interface Plan {
    readonly kind: 'plan';
    readonly into: { readonly id: number; readonly title: string } | null;
    readonly differences: readonly string[];
    readonly unknown: readonly Unknown[];
    readonly kept?: { readonly id: number };
  }
  interface Props {
    /** What it begins with. */
    text: string;
    /** The board that it is of; null for one that comes from elsewhere. */
    into: number | null;
    mayApply: boolean;
    metrics: readonly string[];
  }
  let { text, into, mayApply, metrics }: Props = $props();
  // svelte-ignore state_referenced_locally (what it begins with)
  let written = $state(text);
  let plan = $state.raw<Plan | null>(null);
  let problems = $state.raw<readonly FieldProblem[]>([]);
  let problem = $state('');
  let isBusy = $state(false);
  let mapping = $state.raw<BoardMapping>({});

  /** The largest file that is read at all, bytes. */
  const mostBytes = 60_000_000;

  async function choose(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const file = event.currentTarget.files?.[0];
    if (!file) return;
    plan = null;
    if (file.size > mostBytes)
      problem = `${file.name} has ${Math.round(file.size / 1_000_000)} MB: it is not the file of a board.`;
    else {
      const read = await file.text();
      // What is far too large is reported without being shown: nobody could edit it.
      if (read.length > 2_000_000)
        problem = `${file.name} has ${Math.round(read.length / 1_000_000)} MB; a board has at most 2. It is probably not a board.`;
      else [written, problem] = [read, ''];
    }
  }

  async function ask(what: 'plan' | 'apply'): Promise<void> {
    isBusy = true;
    problem = '';
    problems = [];
    const body = { text: written, mapping, ...(into === null ? { match: true } : { into }) };
    const reply = await callApi<Plan>('POST', `/boards/${what}`, { body });
    isBusy = false;
    plan = answerOrNull(reply);
    if (what === 'apply' && plan?.kept) await goto(withRange(`/boards/${plan.kept.id}`));
    if (reply.kind !== 'refused') return;
    if (reply.problem.problems) problems = reply.problem.problems;
    else problem = wordsOf(reply.problem);
  }

  /** Something of here takes the place of what is not here; the plan is made again. */
  async function map({ of, label, name }: Unknown, to: string): Promise<void> {
    mapping =
      of === 'metric'
        ? { ...mapping, metrics: { ...mapping.metrics, [name]: to } }
        : { ...mapping, values: { ...mapping.values, [label]: { ...mapping.values?.[label], [name]: to } } };
    await ask('plan');
  }
  const mapped = $derived([
    ...Object.entries(mapping.metrics ?? {}),
    ...Object.values(mapping.values ?? {}).flatMap((one) => Object.entries(one))
  ]);
</script>

<div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_380px] gap-3 max-lg:grid-cols-1">
  <div class="flex min-h-0 flex-col gap-2">
    {#if into === null}
      <label class="text-[13px]"
        >A file of this computer, YAML or JSON; or write below
        <input class="field" type="file" accept=".yaml,.yml,.json" onchange={choose} /></label
      >
    {/if}
    <div class="min-h-0 flex-1">
      <CodeField
        text={written}
        label="The board as a file"
        language={() => import('./board-language').then(({ boardLanguage }) => boardLanguage(() => metrics))}
        onChange={(next: string) => {
          written = next;
          plan = null;
        }}
      />
    </div>
  </div>
  <section class="panel min-h-0 gap-2 overflow-y-auto text-[13.5px]" aria-label="What it would do">
    <header><h2>What it would do</h2></header>
    <p class="flex gap-2">
      <button class="btn" disabled={isBusy || written.trim() === ''} onclick={() => void ask('plan')}
        >See what would change</button
      >
      {#if plan && mayApply}
        <button
          class="btn btn-main"
          disabled={isBusy || plan.differences.length === 0}
          onclick={() => void ask('apply')}>{plan.into ? 'Change the board' : 'Make the board'}</button
        >
      {/if}
    </p>
    {#if problem}<p class="fault" role="alert">{problem}</p>{/if}
    <FileProblems {problems} />
    {#if plan}
      {#if plan.unknown.length > 0}
        <h3 class="font-semibold">Not here</h3>
        <p class="text-quiet text-[12px]">
          Its panels would be empty there. Say what takes the place of each, or leave it as it is.
        </p>
        <ul>
          {#each plan.unknown as one (`${one.of} ${one.label} ${one.name}`)}
            <li class="flex flex-wrap items-center gap-1 py-0.5">
              <span class="text-quiet">{one.of === 'metric' ? 'metric' : one.label}</span>
              <b class="break-all">{one.name}</b> is
              <select
                class="part"
                aria-label="What takes the place of {one.name}"
                value=""
                onchange={(event) => void map(one, event.currentTarget.value)}
              >
                <option value="">as it is</option>
                {#each one.candidates as candidate (candidate)}<option>{candidate}</option>{/each}
              </select>
            </li>
          {/each}
        </ul>
      {/if}
      {#if mapped.length > 0}
        <p class="text-[13px]">
          {#each mapped as [from, to] (from)}<span class="block"
              ><span class="num">{from}</span> is <span class="num">{to}</span> here</span
            >{/each}
          <button
            class="link"
            onclick={() => {
              mapping = {};
              void ask('plan');
            }}>Take nothing’s place</button
          >
        </p>
      {/if}
      <h3 class="font-semibold">{plan.into ? `Changes of ${plan.into.title}` : 'A new board'}</h3>
      <ul class="list-disc pl-5">
        {#each plan.differences as difference, index (index)}<li>{difference}</li>{:else}<li
            class="text-quiet list-none"
          >
            The board already matches the file.
          </li>{/each}
      </ul>
    {/if}
  </section>
</div>
