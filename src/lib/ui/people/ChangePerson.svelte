<script lang="ts">
  import { untrack } from 'svelte';
  import { roles, type Role } from '$lib/core/people/rights';
  import type { CallOptions } from '../api';
  import { useReader } from '../time/reader';
  import AccountsPart from './AccountsPart.svelte';
  import type { Acting } from './acting.svelte';

  interface Named {
    readonly id: number;
    readonly name: string;
  }
  type Accounts = 'all' | readonly number[] | null;
  interface Props {
    person: {
      readonly id: number;
      readonly displayName: string;
      readonly role: Role;
      readonly state: string;
      readonly mail: string | null;
      readonly hasPassword: boolean | null;
      readonly hasFactor: boolean | null;
      readonly teamIds: readonly number[];
      /** Whose lines they read, and on whose resources they act; null for as their role says. */
      readonly lines: Accounts;
      readonly acts: Accounts;
    };
    teams: readonly Named[];
    accounts: readonly Named[];
    /** Those who may take their place. */
    others: readonly { readonly id: number; readonly displayName: string }[];
    acting: Acting;
    /** Once something was changed. */
    onDone: () => void;
  }
  let { person, teams, accounts, others, acting, onDone }: Props = $props();
  const { personId: me } = useReader();
  const copyOf = (given: Accounts): 'all' | number[] | null => (given === null || given === 'all' ? given : [...given]);
  let role = $state(untrack(() => person.role));
  let teamIds = $state(untrack(() => [...person.teamIds]));
  let lines = $state(untrack(() => copyOf(person.lines)));
  let acts = $state(untrack(() => copyOf(person.acts)));
  let successor = $state<number | null>(null);
  let disabling = $state(false);
  async function close(work: Promise<unknown>): Promise<void> {
    if ((await work) !== null) onDone();
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

<div class="flex flex-wrap items-center gap-x-4 gap-y-2 py-1">
  {#if person.state === 'disabled'}
    {@render act('POST', `/people/${person.id}/enable`, {}, `${person.displayName} can sign in again.`, `Enable`, true)}
  {:else}
    <label
      >Role
      <select class="field w-auto!" bind:value={role}>
        {#each roles as one (one)}<option>{one}</option>{/each}
      </select></label
    >
    {#if teams.length > 0}<fieldset class="flex flex-wrap gap-3">
        <legend class="sr-only">Teams</legend>
        {#each teams as { id, name } (id)}<label class="whitespace-nowrap"
            ><input type="checkbox" value={id} bind:group={teamIds} /> {name}</label
          >{/each}
      </fieldset>{/if}
    <AccountsPart
      label="Reads lines of"
      legend="Accounts whose lines they read"
      {accounts}
      bind:chosen={lines}
      usual={role === 'viewer' ? 'no account' : 'every account'}
    />
    <AccountsPart
      label="Acts on resources of"
      legend="Accounts on whose resources they act"
      {accounts}
      bind:chosen={acts}
      usual={role === 'administrator' ? 'every account' : 'no account'}
    />
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
              {#each others as { id, displayName } (id)}<option value={id}>{displayName}</option>{/each}
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
