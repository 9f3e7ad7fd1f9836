<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { changeKinds, changeWords, type Change, type ChangeKind, type Follower } from '$lib/core/followers';
  import type { Instant } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import AskedButton from '../forms/AskedButton.svelte';
  import { useLive } from '../live/live.svelte';
  import type { Acting } from '../people/acting.svelte';
  import Moment from '../time/Moment.svelte';
  import KindsPart from './KindsPart.svelte';

  interface Props {
    acting: Acting;
    one: {
      readonly id: number;
      readonly name: string;
      readonly follower: Follower;
      readonly version: number;
      readonly waiting: number;
      readonly tries: number;
      readonly failingSince: Instant | null;
      readonly nextAt: Instant;
      readonly problem: string | null;
      readonly stoppedAt: Instant | null;
    };
    /** The newest first. */
    changes: readonly {
      readonly id: number;
      readonly kind: string;
      readonly at: Instant;
      readonly change: Change;
      readonly sentAt: Instant | null;
      readonly answer: string | null;
    }[];
  }
  let { acting, one, changes }: Props = $props();
  const live = useLive();
  /** What is chosen while it is changed. */
  let chosen = $state<ChangeKind[] | null>(null);
  const kindsText = $derived(
    one.follower.kinds.length === 0
      ? 'every change'
      : one.follower.kinds.map((kind) => changeKinds[kind].toLowerCase()).join(', ')
  );

  async function save(follower: Follower, said: string): Promise<void> {
    const saved = await acting.call('PUT', `/followers/${one.id}`, { body: { follower, version: one.version } }, said);
    if (saved !== null) chosen = null;
    await invalidate('bussola:followers');
  }
  async function remove(): Promise<void> {
    await acting.call('DELETE', `/followers/${one.id}`, {}, `${one.name} follows no longer.`);
    await invalidate('bussola:followers');
  }
  const kindWords = (kind: string): string => (changeKinds as Record<string, string>)[kind] ?? kind;
</script>

<section class="panel" aria-label={one.name}>
  <header class="flex-wrap">
    <h2>{one.name}</h2>
    <small>{kindsText}</small>
    <span class="ml-auto flex flex-wrap items-center gap-2">
      <button
        class="btn"
        disabled={acting.busy}
        onclick={() => (chosen = chosen === null ? [...one.follower.kinds] : null)}
        >{chosen === null ? 'Change' : 'Cancel'}</button
      >
      <button
        class="btn"
        disabled={acting.busy}
        onclick={() =>
          void save(
            { ...one.follower, isOn: !one.follower.isOn },
            one.follower.isOn ? `${one.name} is off.` : `${one.name} is on.`
          )}>{one.follower.isOn ? 'Switch off' : 'Switch on'}</button
      >
      <AskedButton
        label="Remove"
        question={one.waiting === 0
          ? 'Remove it?'
          : `${countOf(one.waiting, 'change')} ${one.waiting === 1 ? 'waits and goes' : 'wait and go'} with it. Remove it?`}
        disabled={acting.busy}
        onConfirm={() => void remove()}
      />
    </span>
  </header>
  <p class="text-[13px]">
    {#if one.stoppedAt !== null}<b class="fault"
        >! Switched off <Moment at={one.stoppedAt} now={live.now} />: it had taken nothing for three days.</b
      >
      The last try: {one.problem}. {countOf(one.waiting, 'change')} will be sent once it is on again.
    {:else if !one.follower.isOn}<span class="text-quiet"
        >Off: nothing that changes now is sent to it later.{#if one.waiting > 0}
          {countOf(one.waiting, 'change')} from before will be sent once it is on again.{/if}</span
      >
    {:else if one.failingSince !== null}<b class="fault"
        >! Nothing was taken since <Moment at={one.failingSince} now={live.now} />:</b
      >
      {one.problem}. {countOf(one.waiting, 'change')}
      {one.waiting === 1 ? 'waits' : 'wait'};
      {countOf(one.tries, 'try', 'tries')} failed, the next is due <Moment at={one.nextAt} now={live.now} />.
    {:else if one.waiting > 0}{countOf(one.waiting, 'change')} {one.waiting === 1 ? 'is' : 'are'} on the way.
    {:else}<span class="text-quiet">All was sent.</span>{/if}
  </p>
  {#if chosen !== null}
    <form
      class="flex flex-col items-start gap-2 py-2"
      onsubmit={(event) => {
        event.preventDefault();
        void save({ ...one.follower, kinds: chosen ?? [] }, 'Saved.');
      }}
    >
      <KindsPart bind:kinds={chosen} of={String(one.id)} />
      <button class="btn btn-main" disabled={acting.busy}>Save</button>
    </form>
  {/if}
  {#if changes.length === 0}
    <p class="text-quiet text-[13px]">Nothing has changed since it follows.</p>
  {:else}
    <div class="overflow-x-auto">
      <table class="rows">
        <thead><tr><th>When</th><th>Kind</th><th>What</th><th>By</th><th>Sent</th><th>Answer</th></tr></thead>
        <tbody>
          {#each changes as { id, kind, at, change, sentAt, answer } (id)}
            <tr data-change={id}>
              <td class="whitespace-nowrap"><Moment {at} now={live.now} /></td>
              <td class="whitespace-nowrap">{kindWords(kind)}</td>
              <td class="min-w-[240px]"
                >{changeWords(change)}{#if change.name !== ''}:
                  {#if change.path !== ''}<a class="link" href={change.path}>{change.name}</a
                    >{:else}{change.name}{/if}{/if}</td
              >
              <td>{change.by}</td>
              <td class="whitespace-nowrap"
                >{#if sentAt === null}<span class="text-quiet">waits</span>{:else}<Moment
                    at={sentAt}
                    now={live.now}
                  />{/if}</td
              >
              <td class="num">{answer ?? ''}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
</section>
