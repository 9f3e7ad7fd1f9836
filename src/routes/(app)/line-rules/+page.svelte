<script lang="ts">
  import { secretNames, type LineRule } from '$lib/core/logs';
  import { countOf } from '$lib/core/words/count';
  import { answerOrNull, callApi } from '$lib/ui/api';
  import { useLive } from '$lib/ui/live/live.svelte';
  import LineRuleForm from '$lib/ui/logs/LineRuleForm.svelte';
  import type { Tried } from '$lib/ui/logs/tried';
  import TriedOnLines from '$lib/ui/logs/TriedOnLines.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayAdminister } = useReader();
  const acting = new Acting();
  interface Proposal extends Tried {
    kind: keyof typeof secretNames;
    name: string;
  }
  let proposals = $state.raw<readonly Proposal[] | 'looking' | 'unknown' | null>(null);
  const accountOf = (id: number | null): string =>
    id === null ? 'all accounts' : (data.accounts.find((one) => one.id === id)?.name ?? 'an account that is removed');
  const wordsOfRule = (rule: LineRule): string => {
    if (rule.does === 'leave-out') return `Leaves out lines that match ${rule.search}`;
    if (rule.masked.kind === 'expression') return `Masks what matches ${rule.masked.expression}`;
    return `Masks every ${secretNames[rule.masked.kind]}`;
  };

  async function look(): Promise<void> {
    proposals = 'looking';
    const found = answerOrNull(await callApi<{ proposals: Proposal[] }>('GET', '/line-rules/proposals'));
    proposals = found?.proposals ?? 'unknown';
  }
  async function add(rule: LineRule): Promise<boolean> {
    const done = `The rule ${rule.name} holds for lines that arrive from now on.`;
    return (await acting.call('POST', '/line-rules', { body: rule }, done)) !== null;
  }
  async function accept({ kind, name }: Proposal): Promise<void> {
    const title = name.charAt(0).toUpperCase() + name.slice(1);
    if (
      !(await add({
        does: 'mask',
        name: title.endsWith('s') ? `${title}es` : `${title}s`,
        account: null,
        masked: { kind }
      }))
    )
      return;
    if (Array.isArray(proposals)) proposals = proposals.filter((one: Proposal) => one.kind !== kind);
  }
  let asked = $state<number | null>(null);
  async function remove(id: number, name: string): Promise<void> {
    await acting.call('DELETE', `/line-rules/${id}`, {}, `The rule ${name} is removed.`);
    asked = null;
  }
</script>

<svelte:head><title>Line rules · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1>{data.rules.length === 0 ? 'No line rule yet.' : countOf(data.rules.length, 'line rule')}</h1>
  <p class="text-quiet mb-2.5 text-[13px]">
    Every line is put through these before it is stored, whoever sends it. What is masked or left out is stored nowhere
    and cannot be brought back.
  </p>
  <Outcome {acting} />
  <div class="grid grid-cols-5 items-start gap-2.5 max-lg:grid-cols-1">
    <section class="panel col-span-3 overflow-x-auto max-lg:col-span-1" aria-label="Rules">
      <table class="rows">
        <thead
          ><tr><th>Name</th><th>What it does</th><th>Lines of</th><th class="right">Lines</th><th>Last</th><th></th></tr
          ></thead
        >
        <tbody>
          {#each data.rules as { id, rule, lines, lastAt } (id)}
            <tr data-rule={rule.name}>
              <td>{rule.name}</td>
              <td class="break-words">{wordsOfRule(rule)}</td>
              <td>{accountOf(rule.account)}</td>
              <td class="num right">{lines.toLocaleString('en')}</td>
              <td
                >{#if lastAt === null}never{:else}<Moment at={lastAt} now={live.now} />{/if}</td
              >
              <td class="right whitespace-nowrap">
                {#if mayAdminister}
                  {#if asked === id}<span class="mr-1">Remove it?</span><button
                      class="btn"
                      disabled={acting.busy}
                      onclick={() => remove(id, rule.name)}>Remove</button
                    > <button class="btn" onclick={() => (asked = null)}>Cancel</button>
                  {:else}<button class="btn" onclick={() => (asked = id)}
                      >Remove…<span class="sr-only"> {rule.name}</span></button
                    >{/if}
                {/if}
              </td>
            </tr>
          {:else}<tr
              ><td colspan="6" class="text-quiet"
                >Lines are stored as they arrive. {mayAdminister ? 'Look for secrets in them, or add a rule.' : ''}</td
              ></tr
            >{/each}
        </tbody>
      </table>
    </section>
    <div class="col-span-2 flex flex-col gap-2.5 max-lg:col-span-1">
      {#if data.mayRead}
        <section class="panel" aria-label="Secrets in lines">
          <header>
            <h2>Secrets in lines</h2>
            <button class="btn ml-auto" disabled={proposals === 'looking'} onclick={look}>Look for secrets</button>
          </header>
          {#if proposals === null}
            <p class="text-[13px]">
              Looks for tokens, card numbers and addresses in the newest lines of the last day, and proposes masks.
            </p>
          {:else if proposals === 'looking'}<p class="text-quiet text-[13px]" role="status">looking</p>
          {:else if proposals === 'unknown'}<p class="fault text-[13px]" role="alert">
              The lines could not be searched. Try again in a moment.
            </p>
          {:else}
            {#each proposals as proposal (proposal.kind)}
              <article class="border-line mb-2 border-b pb-2 last:border-0" aria-label="Mask every {proposal.name}">
                <div class="mb-1 flex items-baseline gap-2">
                  <h3>{countOf(proposal.hits, 'line')} with a {proposal.name}</h3>
                  <span class="text-quiet text-[12px]">of {proposal.tried.toLocaleString('en')}</span>
                  {#if mayAdminister}<button
                      class="btn btn-main ml-auto"
                      disabled={acting.busy}
                      onclick={() => accept(proposal)}
                      >Mask them<span class="sr-only">: every {proposal.name}</span></button
                    >{/if}
                </div>
                <TriedOnLines examples={proposal.examples} />
              </article>
            {:else}<p class="text-[13px]" role="status">Nothing was found that is not masked already.</p>{/each}
          {/if}
        </section>
      {/if}
      {#if mayAdminister}<LineRuleForm accounts={data.accounts} mayTry={data.mayRead} {acting} onAdd={add} />{/if}
    </div>
  </div>
</main>
