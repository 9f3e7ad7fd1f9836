<script lang="ts">
  import { invalidate } from '$app/navigation';
  import type { Problem } from '$lib/core/problem/problem';
  import { countOf } from '$lib/core/words/count';
  import { callWithFile } from '../api';

  interface Rejected {
    readonly count: number;
    readonly first: readonly { readonly line: number; readonly why: string }[];
  }
  interface Preview {
    readonly rows: number;
    readonly rejected: Rejected;
    readonly accounts: readonly {
      readonly name: string;
      readonly provider: string;
      readonly from: string;
      readonly to: string;
      readonly entries: number;
      readonly totals: Readonly<Record<string, string>>;
    }[];
  }
  interface Done {
    readonly accounts: readonly { readonly name: string; readonly entries: number; readonly changed: number }[];
  }

  let { accounts }: { accounts: readonly { readonly id: number; readonly name: string }[] } = $props();
  let file = $state.raw<File | null>(null);
  let preview = $state.raw<Preview | null>(null);
  let done = $state.raw<Done | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let busy = $state('');
  /** Ids of accounts by their names in the file; null for one that is left out. */
  let chosen = $state<Record<string, number | null>>({});
  const wanted = $derived(Object.fromEntries(Object.entries(chosen).filter(([, id]) => id !== null)));

  async function read(input: HTMLInputElement): Promise<void> {
    file = input.files?.[0] ?? null;
    [preview, done, problem] = [null, null, null];
    if (file === null) return;
    busy = 'Reading the file…';
    const reply = await callWithFile<Preview>('/bills/preview', file);
    busy = '';
    if (reply.kind === 'refused') problem = reply.problem;
    if (reply.kind !== 'answered') return;
    preview = reply.answer;
    chosen = Object.fromEntries(
      preview.accounts.map(({ name }) => [name, accounts.find((one) => one.name === name)?.id ?? null])
    );
  }

  async function save(): Promise<void> {
    if (file === null) return;
    busy = 'Importing…';
    const reply = await callWithFile<Done>('/bills/import', file, { accounts: JSON.stringify(wanted) });
    busy = '';
    problem = reply.kind === 'refused' ? reply.problem : null;
    if (reply.kind !== 'answered') return;
    [done, preview] = [reply.answer, null];
    await invalidate('bussola:costs');
  }
</script>

<section class="panel col-span-2 max-lg:col-span-1" aria-label="Import">
  <header>
    <h2>Import bills</h2>
    <small>a FOCUS file in CSV, packed with gzip or not, up to 15 MB</small>
  </header>
  <p><input type="file" accept=".csv,.gz" aria-label="FOCUS file" onchange={(event) => read(event.currentTarget)} /></p>
  {#if busy}<p class="text-quiet mt-1 text-[13px]" role="status">{busy}</p>{/if}
  {#if problem}<p class="fault mt-1 text-[13px]" role="alert">{problem.message} {problem.remedy}</p>{/if}
  {#if preview}
    <p class="mt-2 text-[13px]">
      {countOf(preview.rows, 'row')}{preview.rejected.count > 0
        ? `, of which ${preview.rejected.count} cannot be read`
        : ', all of which can be read'}.
    </p>
    {#if preview.rejected.count > 0}
      <ul class="text-quiet text-[12px]">
        {#each preview.rejected.first.slice(0, 10) as { line, why } (line)}<li>Line {line}: {why}</li>{/each}
      </ul>
    {/if}
    <table class="rows mt-1">
      <thead
        ><tr><th>In the file</th><th>From</th><th>Before</th><th class="right">Cost</th><th>Import into</th></tr></thead
      >
      <tbody>
        {#each preview.accounts as { name, provider, from, to, totals } (name)}
          <tr>
            <td><b>{name}</b> <span class="text-quiet">{provider}</span></td>
            <td class="num">{from}</td><td class="num">{to}</td>
            <td class="num right"
              >{Object.entries(totals)
                .map(([currency, total]) => `${total} ${currency}`)
                .join(', ')}</td
            >
            <td
              ><select class="field w-auto!" aria-label="Account for {name}" bind:value={chosen[name]}
                ><option value={null}>Leave out</option>{#each accounts as one (one.id)}<option value={one.id}
                    >{one.name}</option
                  >{/each}</select
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="mt-2 text-[13px]">
      The days that the file has of an account replace whatever is stored of them.
      <button class="btn btn-main" disabled={Object.keys(wanted).length === 0 || busy !== ''} onclick={save}
        >Import {countOf(Object.keys(wanted).length, 'account')}</button
      >
    </p>
  {/if}
  {#if done}
    <ul class="mt-1 text-[13px]" role="status">
      {#each done.accounts as { name, entries, changed } (name)}
        <li>{name}: {countOf(entries, 'entry', 'entries')} imported, {countOf(changed, 'day')} changed.</li>
      {/each}
    </ul>
  {/if}
</section>
