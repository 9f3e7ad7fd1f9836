<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { peopleDuration, type Duration } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import { countOf } from '$lib/core/words/count';
  import PlanForm from '$lib/ui/backup/PlanForm.svelte';
  import AskedButton from '$lib/ui/forms/AskedButton.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const acting = new Acting();
  useRefresh(live, ['backups'], 'bussola:backups');

  type Entry = (typeof data.backups)[number];
  const running = $derived(data.backups.find(({ state }) => state === 'running') ?? null);
  const files = $derived(data.backups.filter(({ kind, state }) => kind === 'backup' && state !== 'running'));
  const last = $derived(files.find(({ state }) => state === 'done') ?? null);
  const lastEnded = $derived(files[0] ?? null);
  const rehearsalOf = $derived(
    new Map(
      data.backups
        .filter(({ kind, state }) => kind === 'rehearsal' && (state === 'done' || state === 'failed'))
        .reverse()
        .map((one) => [one.backupId, one])
    )
  );
  const lastRehearsal = $derived(
    data.backups.find(({ kind, state }) => kind === 'rehearsal' && (state === 'done' || state === 'failed')) ?? null
  );
  const share = $derived(running?.progress?.share ?? null);
  const percent = $derived(share === null ? null : Math.floor(Math.min(1, share) * 100));
  const nextAt = $derived(data.stored?.nextAt ?? null);
  const count = (value: number) => value.toLocaleString('en');
  const took = ({ beganAt, endedAt }: Entry): string =>
    endedAt === null ? '' : peopleDuration(Math.max(1000, endedAt - beganAt) as Duration);
  /** For how long everything else waited for it. */
  const pausedWords = ({ result }: Entry): string =>
    `statements waited for it for ${((result?.pausedMs ?? 0) / 1000).toFixed(1)} s`;
  /** What a rehearsal found that is wrong. */
  const faultsOf = ({ problem, result }: Entry): string[] =>
    problem === null ? (result?.findings ?? []) : [`${problem.message} ${problem.remedy}`];

  async function act(path: string, said: string, method: 'POST' | 'DELETE' = 'POST'): Promise<void> {
    await acting.call(method, path, {}, said);
    await invalidate('bussola:backups');
  }
</script>

<svelte:head><title>Backups · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>
      {#if last === null}There is no backup yet.{:else if lastEnded?.state === 'failed'}The last backup failed.{:else}The
        last backup is from <Moment at={last.beganAt} now={live.now} />.{/if}
    </h1>
    {#if last !== null && lastEnded?.state === 'failed'}<span
        >The newest that is whole is from <Moment at={last.beganAt} now={live.now} />;</span
      >{/if}
    <span class="text-quiet"
      >{#if lastRehearsal === null}restoring was never rehearsed{:else if lastRehearsal.state === 'done'}it was
        rehearsed
        <Moment at={lastRehearsal.beganAt} now={live.now} /> that one can be restored{:else}<b class="fault"
          >! the last rehearsal of restoring one failed</b
        >{/if}{#if nextAt !== null}; the next is due <Moment at={nextAt} now={live.now} />{/if}</span
    >
    <button
      class="btn btn-main ml-auto"
      disabled={acting.busy || running !== null}
      onclick={() => void act('/backups', 'The backup has begun.')}>Back up now</button
    >
  </div>
  <Outcome {acting} />
  <div class="flex flex-col gap-2.5">
    {#if running !== null}
      <section class="panel flex-row! flex-wrap items-center gap-3 text-[13px]" aria-label="Running">
        <b>{running.kind === 'backup' ? 'A backup is being made' : 'Restoring a backup is rehearsed'}</b>
        <progress
          class="h-2 w-[220px]"
          aria-label="How far it is"
          {...percent === null ? {} : { value: percent, max: 100 }}
        ></progress>
        <span class="text-quiet" aria-live="polite"
          >{running.progress?.doing ?? 'Begins'}{percent === null ? '' : `, ${percent} %`}</span
        >
        <span class="text-quiet">since <Moment at={running.beganAt} now={live.now} />, {running.beganBy}</span>
        <button
          class="btn ml-auto"
          disabled={acting.busy}
          onclick={() => void act(`/backups/${running.id}/stop`, 'It was stopped; nothing of it is left.')}>Stop</button
        >
      </section>
    {/if}
    <section class="panel" aria-label="Backups">
      <header>
        <h2>Backups</h2>
        <small class="break-all">files in {data.folder}</small>
      </header>
      {#if files.length === 0}
        <p class="text-quiet py-2 text-[13px]">
          A backup is one file with everything that is stored: accounts, boards, alarms, people, samples and lines. It
          is made while Bussola works on, and is restored into an empty data folder or PostgreSQL database.
        </p>
      {:else}
        <div class="overflow-x-auto">
          <table class="rows">
            <thead
              ><tr
                ><th>Begun</th><th>By</th><th>Took</th><th class="right">Size</th><th class="right">Rows</th><th
                  >Restoring it</th
                ><th></th></tr
              ></thead
            >
            <tbody>
              {#each files as backup (backup.id)}
                {@const rehearsal = rehearsalOf.get(backup.id)}
                <tr>
                  <td class="whitespace-nowrap"><Moment at={backup.beganAt} now={live.now} /></td>
                  <td>{backup.isScheduled ? 'schedule' : backup.beganBy}</td>
                  {#if backup.state === 'done'}
                    <td class="num whitespace-nowrap" title={pausedWords(backup)}>{took(backup)}</td>
                    <td class="num right whitespace-nowrap">{quantityText(backup.result?.bytes ?? 0, 'By')}</td>
                    <td class="num right">{count(backup.result?.rows ?? 0)}</td>
                    <td
                      >{#if rehearsal === undefined}<span class="text-quiet">not rehearsed</span
                        >{:else if rehearsal.state === 'done'}rehearsed <Moment
                          at={rehearsal.beganAt}
                          now={live.now}
                        />, each row compared{:else}<b class="fault">! {faultsOf(rehearsal)[0]}</b
                        >{#if faultsOf(rehearsal).length > 1}
                          and {countOf(faultsOf(rehearsal).length - 1, 'more finding')}{/if}{/if}</td
                    >
                    <td class="right whitespace-nowrap"
                      >{#if backup.isThere}<button
                          class="btn"
                          disabled={acting.busy || running !== null}
                          onclick={() => void act(`/backups/${backup.id}/rehearse`, 'The rehearsal has begun.')}
                          >Rehearse</button
                        >{:else if backup.file === null}<span class="text-quiet">its file was removed</span>{:else}<span
                          class="text-quiet">its file lies elsewhere</span
                        >{/if}
                      <AskedButton
                        label="Remove"
                        question="Its file goes with it. Remove it?"
                        disabled={acting.busy}
                        onConfirm={() => void act(`/backups/${backup.id}`, 'It was removed.', 'DELETE')}
                      /></td
                    >
                  {:else}
                    <td colspan="4"
                      >{#if backup.state === 'stopped'}<span class="text-quiet">stopped; nothing of it is left</span
                        >{:else}<b class="fault">! {backup.problem?.message}</b> {backup.problem?.remedy}{/if}</td
                    >
                    <td class="right"
                      ><AskedButton
                        label="Remove"
                        question="Remove it from this list?"
                        disabled={acting.busy}
                        onConfirm={() => void act(`/backups/${backup.id}`, 'It was removed.', 'DELETE')}
                      /></td
                    >
                  {/if}
                </tr>
              {/each}
            </tbody>
          </table>
        </div>
      {/if}
    </section>
    <PlanForm {acting} stored={data.stored} given={data.given} onSaved={() => invalidate('bussola:backups')} />
    <section class="panel gap-1 text-[13px]" aria-label="What a backup does not have">
      <header><h2>What a backup does not have</h2></header>
      <p>
        The key that opens credentials{data.key === 'file'
          ? ' is the file "key" in the data folder'
          : ' is the setting BUSSOLA_KEY'}. Store a copy of it apart from the backups: who has both has the credentials.
        Without it all else is restored, and credentials are entered again.
      </p>
      {#if data.isBesideData}<p>
          The files lie in the data folder: a lost disk takes both. Set BUSSOLA_BACKUPS to a folder on another disk, or
          copy them to another machine.
        </p>{/if}
      <p class="text-quiet">
        To restore one: <code>npm run restore -- --from FILE --key KEY</code>, with an empty data folder or database.
      </p>
    </section>
  </div>
</main>
