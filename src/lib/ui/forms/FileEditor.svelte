<script lang="ts" generics="Answer">
  import FileProblems from './FileProblems.svelte';
  import { callApi, answerOrNull, wordsOf } from '../api';
  import type { FieldProblem } from '$lib/core/problem/problem';
  import { countOf } from '$lib/core/words/count';
  import { withRange } from '../time/shown';

  /** What applying a file would do to one thing. */
  interface Planned {
    readonly name: string;
    /** What kind of thing it is, where a file has several. */
    readonly kind?: string;
    readonly id: number | null;
    readonly sentence?: string;
    readonly differences: readonly string[];
    readonly problems: readonly string[];
  }
  /** A plan as the page shows it. */
  interface Shown {
    readonly things: readonly Planned[];
    /** What changes besides. */
    readonly besides?: string | null;
    /** How many were stored; undefined as long as it is a plan. */
    readonly applied?: number | undefined;
  }
  interface Props {
    /** Where it is planned and applied, below `/api/v1`. */
    path: string;
    /** One of the things that a file has, and its first line. */
    thing: string;
    firstLine: string;
    shownOf: (answer: Answer) => Shown;
    /** The page of a thing; none for what has no page of its own. */
    hrefOf: (planned: Planned) => string;
  }
  let { path, thing, firstLine, shownOf, hrefOf }: Props = $props();
  let written = $state('');
  let plan = $state.raw<Shown | null>(null);
  let problems = $state.raw<readonly FieldProblem[]>([]);
  let problem = $state('');
  let isBusy = $state(false);
  const mostCharacters = 2_000_000;

  async function choose(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const file = event.currentTarget.files?.[0];
    if (!file) return;
    plan = null;
    if (file.size > mostCharacters)
      problem = `${file.name} has ${Math.round(file.size / 1_000_000)} MB; a file has at most 2. It is probably another file.`;
    else [written, problem] = [await file.text(), ''];
  }

  async function ask(what: 'plan' | 'apply'): Promise<void> {
    isBusy = true;
    problem = '';
    problems = [];
    const reply = await callApi<Answer>('POST', `${path}/${what}`, { body: { text: written } });
    isBusy = false;
    const answer = answerOrNull(reply);
    plan = answer === null ? null : shownOf(answer);
    if (reply.kind !== 'refused') return;
    if (reply.problem.problems) problems = reply.problem.problems;
    else problem = wordsOf(reply.problem);
  }
  const made = $derived(plan?.things.filter(({ id }) => id === null).length ?? 0);
  const changed = $derived(
    plan?.things.filter(({ id, differences }) => id !== null && differences.length > 0).length ?? 0
  );
  const isAmiss = $derived(plan?.things.some((one) => one.problems.length > 0) ?? false);
</script>

<div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_420px] gap-3 max-lg:grid-cols-1">
  <div class="flex min-h-[420px] flex-col gap-2">
    <label class="text-[13px]"
      >A file of this computer, YAML or JSON; or write below
      <input class="field" type="file" accept=".yaml,.yml,.json" onchange={choose} /></label
    >
    <textarea
      class="field num min-h-0 flex-1 resize-none text-[12.5px]!"
      aria-label="The {thing}s as a file"
      spellcheck="false"
      placeholder={firstLine}
      value={written}
      oninput={(event) => {
        written = event.currentTarget.value;
        plan = null;
      }}></textarea>
  </div>
  <section class="panel min-h-0 gap-2 overflow-y-auto text-[13.5px]" aria-label="What it would do">
    <header>
      <h2>What it would do</h2>
      <small>what it does not name stays</small>
    </header>
    <p class="flex gap-2">
      <button class="btn" disabled={isBusy || written.trim() === ''} onclick={() => void ask('plan')}
        >See what would change</button
      >
      {#if plan && plan.applied === undefined}
        <button
          class="btn btn-main"
          disabled={isBusy || isAmiss || (made + changed === 0 && !plan.besides)}
          onclick={() => void ask('apply')}>Apply it</button
        >
      {/if}
    </p>
    {#if problem}<p class="fault" role="alert">{problem}</p>{/if}
    <FileProblems {problems} />
    {#if plan}
      <p role="status">
        {#if plan.applied !== undefined}<b>Applied: {countOf(plan.applied, thing)} stored.</b
          >{:else if made + changed === 0}{plan.besides ? '' : 'Nothing would change.'}{:else}{countOf(made, thing)} would
          be made, {changed} changed,
          {plan.things.length - made - changed} are the same already.{/if}
        {plan.besides ?? ''}
      </p>
      <ul>
        {#each plan.things as planned (`${planned.kind ?? ''} ${planned.name}`)}
          {@const { name, kind, id, sentence = '', differences, problems: amiss } = planned}
          <li class="border-line border-b py-1.5 last:border-0" data-planned={name}>
            {#if id === null}<b>{name}</b> <span class="text-quiet">new {kind ?? ''}</span>
              {#if sentence !== ''}<p class="text-quiet text-[12px]">{sentence}</p>{/if}
            {:else}<a class="link font-semibold" href={withRange(hrefOf(planned))}>{name}</a>
              {#if kind}<span class="text-quiet">{kind}</span>{/if}
              {#each differences as difference (difference)}<p>{difference}</p>{:else}<span class="text-quiet"
                  >the same</span
                >{/each}{/if}
            {#each amiss as one (one)}<p class="fault">{one}</p>{/each}
          </li>
        {/each}
      </ul>
    {/if}
  </section>
</div>
