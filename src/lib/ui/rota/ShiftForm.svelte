<script lang="ts">
  import { DateTime } from 'luxon';
  import { dateAfter, dateAt, textFromInstant, type Instant } from '$lib/core/time';
  import { untrack } from 'svelte';
  import { callApi, wordsOf } from '../api';
  import { useReader } from '../time/reader';

  interface Props {
    /** Somebody is asked to take over, or simply has the shift. */
    kind: 'swap' | 'override';
    rotas: readonly { readonly id: number; readonly name: string }[];
    people: readonly { readonly id: number; readonly displayName: string }[];
    rotaId: number;
    now: Instant;
    onDone: (says: string) => void;
    onCancel: () => void;
  }
  let { kind, rotas, people, rotaId: initial, now, onDone, onCancel }: Props = $props();
  const { zone, personId } = useReader();
  const tomorrow = untrack(() => dateAfter(dateAt(now, zone), 1));
  let rotaId = $state(untrack(() => initial));
  let from = $state(`${tomorrow}T08:00`);
  let to = $state(`${dateAfter(tomorrow, 1)}T08:00`);
  let other = $state(untrack(() => people.find(({ id }) => id !== personId)?.id ?? 0));
  let reason = $state('');
  let problem = $state('');
  let isBusy = $state(false);
  const instantOf = (local: string) => DateTime.fromISO(local, { zone });
  async function send(): Promise<void> {
    const [first, last] = [instantOf(from), instantOf(to)];
    if (!first.isValid || !last.isValid) {
      problem = 'Give both times.';
      return;
    }
    isBusy = true;
    const span = {
      from: textFromInstant(first.toMillis() as Instant),
      to: textFromInstant(last.toMillis() as Instant)
    };
    const reply = await callApi('POST', `/rotas/${rotaId}/${kind === 'swap' ? 'swaps' : 'overrides'}`, {
      body: kind === 'swap' ? { ...span, askedOf: other } : { ...span, personId: other, reason }
    });
    isBusy = false;
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    const name = people.find(({ id }) => id === other)?.displayName ?? '';
    if (reply.kind === 'answered')
      onDone(kind === 'swap' ? `${name} was asked to take it over.` : `${name} has this shift now.`);
  }
</script>

<form
  class="panel mb-2.5 gap-2"
  aria-label={kind === 'swap' ? 'Ask for a swap' : 'Change a shift'}
  onsubmit={(event) => {
    event.preventDefault();
    void send();
  }}
>
  <p class="sentence text-[15px]!">
    {kind === 'swap' ? 'I ask' : 'Give'}
    {#if kind === 'override'}the watch of
      <select class="part" aria-label="Rota" bind:value={rotaId}>
        {#each rotas as { id, name } (id)}<option value={id}>{name}</option>{/each}
      </select> to{/if}
    <select class="part" aria-label="Person" bind:value={other}>
      {#each people.filter(({ id }) => kind === 'override' || id !== personId) as { id, displayName } (id)}<option
          value={id}>{displayName}</option
        >{/each}
    </select>
    {#if kind === 'swap'}to take over my watch of
      <select class="part" aria-label="Rota" bind:value={rotaId}>
        {#each rotas as { id, name } (id)}<option value={id}>{name}</option>{/each}
      </select>{/if}
    from <input class="part" type="datetime-local" aria-label="From" required bind:value={from} /> to
    <input class="part" type="datetime-local" aria-label="To" required bind:value={to} />{#if kind === 'override'},
      since
      <input
        class="part"
        aria-label="Reason"
        placeholder="a reason, if you like"
        maxlength="200"
        bind:value={reason}
      />{/if}.
  </p>
  <div class="flex gap-2">
    <button class="btn btn-main" disabled={isBusy}>{kind === 'swap' ? 'Ask' : 'Change the shift'}</button>
    <button type="button" class="btn" onclick={onCancel}>Cancel</button>
  </div>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
</form>
