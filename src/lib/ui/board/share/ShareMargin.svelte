<script lang="ts">
  import { callApi, answerOrNull, wordsOf } from '../../api';
  import X from '@lucide/svelte/icons/x';
  import { page } from '$app/state';
  import { choicesFrom, type BoardRight, type Picker, type Sharing } from '$lib/core/board';
  import { roles, type Role } from '$lib/core/people/rights';
  import type { Instant } from '$lib/core/time';
  import { useLive } from '../../live/live.svelte';
  import Margin from '../../margin/Margin.svelte';
  import Moment from '../../time/Moment.svelte';
  import { useReader } from '../../time/reader';

  interface Told {
    readonly sharing: Sharing & { readonly owner: number | null; readonly ownerName: string | null };
    readonly teamId: number | null;
    readonly people: readonly { readonly id: number; readonly displayName: string; readonly role: Role }[];
    readonly links: readonly {
      readonly id: number;
      readonly madeAt: Instant;
      readonly madeBy: string;
      readonly expiresAt: Instant;
    }[];
  }
  interface Props {
    id: number;
    pickers: readonly Picker[];
    onClose: () => void;
  }
  let { id, pickers, onClose }: Props = $props();
  const live = useLive();
  const reader = useReader();
  let told = $state.raw<Told | null>(null);
  let problem = $state('');
  let said = $state('');
  let days = $state(7);
  /** The address of the link that was made last: it is shown once. */
  let made = $state('');

  async function call<Answer>(path: string, method: 'GET' | 'PUT' | 'POST' | 'DELETE', body?: object) {
    problem = said = '';
    const reply = await callApi<Answer>(method, path, body && { body });
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    return answerOrNull(reply);
  }

  async function read(): Promise<void> {
    told = (await call<Told>(`/boards/${id}/sharing`, 'GET')) ?? told;
  }
  $effect(() => void read());

  async function share(to: Partial<Sharing>): Promise<void> {
    if (told === null) return;
    const { reach, everyone, named } = told.sharing;
    const kept = await call(`/boards/${id}/sharing`, 'PUT', { reach, everyone, named, ...to });
    const why = problem;
    await read();
    if (kept !== null) said = 'Shared so from now on.';
    else problem = why;
  }

  async function give(teamId: number | null): Promise<void> {
    const given = await call(`/boards/${id}/team`, 'PUT', { teamId });
    const why = problem;
    await read();
    if (given === null) problem = why;
    else said = 'It belongs to them from now on.';
  }

  function name(key: string, may: BoardRight | null): void {
    if (told === null) return;
    const one = key.startsWith('role ') ? { role: key.slice(5) as Role } : { person: Number(key) };
    const others = told.sharing.named.filter((named) => keyOf(named) !== key);
    void share({ named: may === null ? others : [...others, { ...one, may }] });
  }
  const keyOf = (named: Sharing['named'][number]) => ('role' in named ? `role ${named.role}` : String(named.person));
  const nameOf = (named: Sharing['named'][number]) =>
    'role' in named
      ? `every ${named.role}`
      : (told?.people.find((person) => person.id === named.person)?.displayName ?? 'a person who was removed');

  async function makeLink(): Promise<void> {
    const choices = choicesFrom(page.url.searchParams, pickers);
    const link = await call<{ address: string }>(`/boards/${id}/links`, 'POST', { days, choices });
    if (link === null) return;
    await read();
    made = `${link.address}${page.url.searchParams.has('range') ? `?range=${page.url.searchParams.get('range') ?? ''}` : ''}`;
  }

  async function copy(): Promise<void> {
    try {
      await navigator.clipboard.writeText(made);
      said = 'Copied.';
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      problem = `It could not be copied: ${error.message}`;
    }
  }

  async function revoke(link: number): Promise<void> {
    await call(`/boards/${id}/links/${link}`, 'DELETE');
    made = '';
    await read();
  }
</script>

<Margin title="Share" {onClose}>
  {#if told}
    {@const { sharing, people, links } = told}
    <div class="flex flex-col gap-3 text-[13.5px]">
      <p class="leading-8">
        This board of {sharing.ownerName ?? 'nobody any more'} is
        <select
          class="part"
          aria-label="Who sees it"
          value={sharing.reach}
          onchange={(event) => void share({ reach: event.currentTarget.value as Sharing['reach'] })}
        >
          <option value="workspace">published: everybody here sees it</option>
          <option value="private">private: only those named see it</option>
        </select>
        {#if sharing.reach === 'workspace'}
          and people who edit boards may
          <select
            class="part"
            aria-label="What editors may do"
            value={sharing.everyone}
            onchange={(event) => void share({ everyone: event.currentTarget.value as BoardRight })}
          >
            <option value="edit">edit</option>
            <option value="view">only view</option>
          </select> it.
        {:else}. Administrators see every board.{/if}
        {#if reader.teams.length > 0}It belongs to
          <select
            class="part"
            aria-label="Team"
            value={told.teamId ?? 0}
            onchange={(event) => void give(Number(event.currentTarget.value) || null)}
          >
            <option value={0}>no team</option>
            {#each reader.teams as team (team.id)}<option value={team.id}>{team.name}</option>{/each}
          </select>.{/if}
      </p>
      <div>
        <h3 class="font-semibold">Named</h3>
        <ul>
          {#each sharing.named as named (keyOf(named))}
            <li class="flex items-center gap-2 py-0.5">
              {nameOf(named)} may
              <select
                class="part"
                aria-label="What {nameOf(named)} may do"
                value={named.may}
                onchange={(event) => name(keyOf(named), event.currentTarget.value as BoardRight)}
              >
                <option>view</option>
                <!-- Viewers change nothing, whatever a board says of them. -->
                {#if keyOf(named) !== 'role viewer'}<option>edit</option>{/if}
              </select>
              <button
                class="text-quiet ml-auto"
                aria-label="Name {nameOf(named)} no more"
                onclick={() => name(keyOf(named), null)}><X size={13} /></button
              >
            </li>
          {/each}
        </ul>
        <select
          class="part"
          aria-label="Name somebody"
          value=""
          onchange={(event) => {
            name(event.currentTarget.value, 'view');
            event.currentTarget.value = '';
          }}
        >
          <option value="">Name a person or a role …</option>
          {#each people.filter((person) => person.id !== sharing.owner && !sharing.named.some((one) => keyOf(one) === String(person.id))) as person (person.id)}
            <option value={String(person.id)}>{person.displayName}</option>
          {/each}
          {#each roles.filter((role) => !sharing.named.some((one) => keyOf(one) === `role ${role}`)) as role (role)}
            <option value="role {role}">every {role}</option>
          {/each}
        </select>
      </div>
      <div>
        <h3 class="font-semibold">Links to read only</h3>
        <p class="text-quiet text-[12px]">
          Anyone who has the link sees the board without signing in, with the values picked now, until the link expires
          or is revoked.
        </p>
        <p class="mt-1 flex items-center gap-2">
          for
          <select class="part" aria-label="How long" bind:value={days}>
            <option value={1}>1 day</option><option value={7}>7 days</option><option value={30}>30 days</option><option
              value={365}>1 year</option
            >
          </select>
          <button class="btn" onclick={makeLink}>Make a link</button>
        </p>
        {#if made}
          <p class="mt-1 flex gap-1">
            <input class="field num text-[12px]!" readonly aria-label="The link" value={made} />
            <button class="btn" onclick={copy}>Copy</button>
          </p>
          <p class="text-quiet text-[12px]">It is shown only once: copy it now.</p>
        {/if}
        <ul class="mt-1">
          {#each links as { id: link, madeAt, madeBy, expiresAt } (link)}
            <li class="border-line flex items-center gap-2 border-b py-1 text-[13px] last:border-0">
              <span
                >made <Moment at={madeAt} now={live.now} /> by {madeBy}, until <Moment
                  at={expiresAt}
                  now={live.now}
                /></span
              >
              <button class="btn ml-auto" onclick={() => void revoke(link)}>Revoke</button>
            </li>
          {/each}
        </ul>
      </div>
    </div>
  {:else if !problem}<p class="text-quiet">Reading…</p>{/if}
  {#if said}<p class="text-quiet mt-2 text-[13px]" role="status">{said}</p>{/if}
  {#if problem}<p class="fault mt-2 text-[13px]" role="alert">{problem}</p>{/if}
</Margin>
