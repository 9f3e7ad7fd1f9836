<script lang="ts">
  import { problemsOf } from '$lib/core/forms/problems';
  import { invitationSchema } from '$lib/core/people/forms';
  import { roles, type Role } from '$lib/core/people/rights';
  import { channelKindWords } from '$lib/core/notify';
  import { countOf } from '$lib/core/words/count';
  import type { CallOptions } from '$lib/ui/api';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayAdminister, personId: me } = useReader();
  const acting = new Acting();
  const active = $derived(data.people.filter(({ state }) => state === 'active'));
  const unreached = $derived(active.filter(({ reachedBy }) => reachedBy.length === 0));
  const heading = $derived(
    unreached.length > 0
      ? `${countOf(unreached.length, 'person', 'people')} cannot be reached.`
      : countOf(active.length, 'person', 'people')
  );
  const teamNames = (ids: readonly number[]) =>
    data.teams
      .filter(({ id }) => ids.includes(id))
      .map(({ name }) => name)
      .join(', ');

  /** Whose lines somebody reads, in words. */
  const linesOf = ({ role: of, lines: said }: PageProps['data']['people'][number]): string => {
    if (said === 'all' || (said === null && of !== 'viewer')) return 'of every account';
    const names = data.accounts.filter(({ id }) => said?.includes(id)).map(({ name }) => name);
    return names.join(', ');
  };

  /** On whose resources somebody acts, in words. */
  const actsOf = ({ role: of, acts: said }: PageProps['data']['people'][number]): string => {
    if (said === 'all' || (said === null && of === 'administrator')) return 'of every account';
    return data.accounts
      .filter(({ id }) => said?.includes(id))
      .map(({ name }) => name)
      .join(', ');
  };

  const emptyInvitation = (): { name: string; displayName: string; mail: string; role: Role; teamIds: number[] } => ({
    ...{ name: '', displayName: '', mail: '', role: 'viewer', teamIds: [] }
  });
  let inviting = $state(false);
  let invitation = $state(emptyInvitation());
  async function sendInvitation(): Promise<void> {
    const read = invitationSchema.safeParse($state.snapshot(invitation));
    if (!read.success) {
      acting.problem = problemsOf(read.error)[0]?.message ?? '';
      return;
    }
    const { displayName, mail } = read.data;
    if (
      !(await acting.call('POST', '/people', { body: read.data }, `${displayName} is invited: a link goes to ${mail}.`))
    )
      return;
    inviting = false;
    invitation = emptyInvitation();
  }

  /** The person whose row is open, and what is changed of them. */
  let opened = $state<number | null>(null);
  let role = $state<Role>('viewer');
  let teamIds = $state<number[]>([]);
  /** Whose lines they read; null for as their role says. */
  let lines = $state<'all' | number[] | null>(null);
  /** On whose resources they act; null for as their role says. */
  let acts = $state<'all' | number[] | null>(null);
  let successor = $state<number | null>(null);
  let disabling = $state(false);
  function open(person: PageProps['data']['people'][number]): void {
    opened = opened === person.id ? null : person.id;
    role = person.role;
    teamIds = [...person.teamIds];
    lines = Array.isArray(person.lines) ? [...person.lines] : person.lines;
    acts = Array.isArray(person.acts) ? [...person.acts] : person.acts;
    successor = null;
    disabling = false;
  }
  async function close(work: Promise<unknown>): Promise<void> {
    if ((await work) !== null) opened = null;
  }
</script>

{#snippet act(
  method: 'POST' | 'PUT' | 'DELETE',
  path: string,
  options: CallOptions,
  done: string,
  label: string,
  isMain = false
)}
  <button
    class={['btn', isMain && 'btn-main']}
    disabled={acting.busy}
    onclick={() => close(acting.call(method, path, options, done))}>{label}</button
  >
{/snippet}

{#snippet accounts(
  label: string,
  legend: string,
  chosen: 'all' | number[] | null,
  usual: string,
  onChange: (to: 'all' | number[] | null) => void
)}
  <label
    >{label}
    <select
      class="field w-auto!"
      value={chosen === null ? 'role' : chosen === 'all' ? 'all' : 'some'}
      onchange={(event) => {
        const { value } = event.currentTarget;
        onChange(value === 'role' ? null : value === 'all' ? 'all' : []);
      }}
    >
      <option value="role">{usual}, as the role says</option>
      <option value="all">every account</option>
      <option value="some">these accounts</option>
    </select></label
  >
  {#if Array.isArray(chosen)}<fieldset class="flex flex-wrap gap-3">
      <legend class="sr-only">{legend}</legend>
      {#each data.accounts as { id, name } (id)}<label class="whitespace-nowrap"
          ><input
            type="checkbox"
            checked={chosen.includes(id)}
            onchange={(event) =>
              onChange(event.currentTarget.checked ? [...chosen, id] : chosen.filter((one) => one !== id))}
          />
          {name}</label
        >{/each}
    </fieldset>{/if}
{/snippet}

<svelte:head><title>People · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-center gap-3">
    <h1 class={unreached.length > 0 ? 'text-major' : ''}>{heading}</h1>
    {#if mayAdminister && !inviting}<button class="btn ml-auto" onclick={() => (inviting = true)}
        >Invite somebody…</button
      >{/if}
  </div>
  <Outcome {acting} />
  {#if inviting}
    <form
      class="panel mb-3 gap-2"
      aria-label="Invitation"
      onsubmit={(event) => {
        event.preventDefault();
        void sendInvitation();
      }}
    >
      <fieldset disabled={acting.busy} class="sentence text-[15px]!">
        <p>
          <input
            class="part"
            aria-label="Full name"
            placeholder="full name"
            maxlength="80"
            bind:value={invitation.displayName}
          />
          signs in as
          <input
            class="part"
            aria-label="Sign-in name"
            placeholder="name"
            maxlength="60"
            bind:value={invitation.name}
          />, joins by a link that is sent to
          <input
            class="part"
            type="email"
            aria-label="Mail address"
            placeholder="mail address"
            maxlength="200"
            bind:value={invitation.mail}
          />, and is
          <select class="part" aria-label="Role" bind:value={invitation.role}>
            {#each roles as one (one)}<option>{one}</option>{/each}
          </select>{#if data.teams.length > 0}&#32;in
            <select
              class="part"
              aria-label="Team"
              value={invitation.teamIds[0] ?? 0}
              onchange={(event) =>
                (invitation.teamIds = event.currentTarget.value === '0' ? [] : [Number(event.currentTarget.value)])}
            >
              <option value={0}>no team</option>
              {#each data.teams as { id, name } (id)}<option value={id}>{name}</option>{/each}
            </select>{/if}.
        </p>
      </fieldset>
      <div class="flex gap-2">
        <button class="btn btn-main" disabled={acting.busy}>Send the invitation</button>
        <button type="button" class="btn" onclick={() => (inviting = false)}>Cancel</button>
      </div>
    </form>
  {/if}
  <section class="panel overflow-x-auto" aria-label="People">
    <table class="rows min-w-[760px]">
      <thead
        ><tr
          ><th>Name</th><th>Role</th><th>Teams</th><th>Reached by</th><th>Watch</th><th>Lines</th><th
            >Acts on resources</th
          >{#if mayAdminister}<th>Signed in</th><th>Second factor</th><th></th>{/if}</tr
        ></thead
      >
      <tbody>
        {#each data.people as person (person.id)}
          <tr data-person={person.id} class={opened === person.id ? 'bg-shallow' : ''}>
            <td
              >{person.displayName}
              <span class="text-quiet num block text-[12px]"
                >{person.name}{person.mail === null ? '' : `, ${person.mail}`}</span
              ></td
            >
            <td class={person.state === 'active' ? '' : 'text-quiet'}
              >{person.role}{person.state === 'active' ? '' : `, ${person.state}`}</td
            >
            <td>{teamNames(person.teamIds)}</td>
            <td
              >{#if person.reachedBy.length > 0}{[...new Set(person.reachedBy)]
                  .map((kind) => channelKindWords[kind])
                  .join(', ')}{:else if person.state === 'active'}<span class="text-major">nothing confirmed</span
                >{/if}</td
            >
            <td>{person.watches.join(', ')}</td>
            <td>{linesOf(person)}</td>
            <td>{actsOf(person)}</td>
            {#if mayAdminister}
              <td
                >{#if person.signedInAt !== null}<Moment at={person.signedInAt} now={live.now} />{/if}</td
              >
              <td>{person.hasFactor ? 'yes' : ''}</td>
              <td class="right"
                ><button class="btn" aria-expanded={opened === person.id} onclick={() => open(person)}
                  >Change…<span class="sr-only"> {person.displayName}</span></button
                ></td
              >
            {/if}
          </tr>
          {#if opened === person.id}
            <tr class="detail" aria-label="Change {person.displayName}"
              ><td colspan="10">
                <div class="flex flex-wrap items-center gap-x-4 gap-y-2 py-1">
                  {#if person.state === 'disabled'}
                    {@render act(
                      'POST',
                      `/people/${person.id}/enable`,
                      {},
                      `${person.displayName} can sign in again.`,
                      `Enable`,
                      true
                    )}
                  {:else}
                    <label
                      >Role
                      <select class="field w-auto!" bind:value={role}>
                        {#each roles as one (one)}<option>{one}</option>{/each}
                      </select></label
                    >
                    {#if data.teams.length > 0}<fieldset class="flex flex-wrap gap-3">
                        <legend class="sr-only">Teams</legend>
                        {#each data.teams as { id, name } (id)}<label class="whitespace-nowrap"
                            ><input type="checkbox" value={id} bind:group={teamIds} /> {name}</label
                          >{/each}
                      </fieldset>{/if}
                    {@render accounts(
                      'Reads lines of',
                      'Accounts whose lines they read',
                      lines,
                      role === 'viewer' ? 'no account' : 'every account',
                      (to) => (lines = to)
                    )}
                    {@render accounts(
                      'Acts on resources of',
                      'Accounts on whose resources they act',
                      acts,
                      role === 'administrator' ? 'every account' : 'no account',
                      (to) => (acts = to)
                    )}
                    {@render act(
                      'PUT',
                      `/people/${person.id}`,
                      {
                        body: {
                          role,
                          teamIds: $state.snapshot(teamIds),
                          lines: $state.snapshot(lines),
                          acts: $state.snapshot(acts)
                        }
                      },
                      `${person.displayName} is changed.`,
                      `Save`,
                      true
                    )}
                    {#if person.hasPassword === false && person.mail !== null}{@render act(
                        'POST',
                        `/people/${person.id}/invite-again`,
                        {},
                        `The link was sent again.`,
                        `Send the invitation again`
                      )}{/if}
                    {#if person.state === 'active'}{@render act(
                        'DELETE',
                        `/people/${person.id}/sessions`,
                        {},
                        `${person.displayName} is signed out everywhere.`,
                        `Sign out everywhere`
                      )}{/if}
                    {#if person.hasFactor}{@render act(
                        'DELETE',
                        `/people/${person.id}/second-factor`,
                        {},
                        `${person.displayName} signs in by password alone until they set another one up.`,
                        `Remove the second factor`
                      )}{/if}
                    {#if person.id !== me}
                      {#if disabling}
                        <span class="flex flex-wrap items-center gap-2"
                          ><label
                            >Their shifts and messages go to
                            <select class="field w-auto!" bind:value={successor}>
                              <option value={null}>nobody, they have none</option>
                              {#each active.filter(({ id }) => id !== person.id) as { id, displayName } (id)}<option
                                  value={id}>{displayName}</option
                                >{/each}
                            </select></label
                          >{@render act(
                            'POST',
                            `/people/${person.id}/disable`,
                            { body: { successorId: successor } },
                            `${person.displayName} is disabled and signed out.`,
                            `Disable ${person.displayName}`,
                            true
                          )}</span
                        >
                      {:else}<button class="btn" onclick={() => (disabling = true)}>Disable…</button>{/if}
                    {/if}
                  {/if}
                </div>
              </td></tr
            >
          {/if}
        {/each}
      </tbody>
    </table>
  </section>
</main>
