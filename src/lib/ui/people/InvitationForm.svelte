<script lang="ts">
  import { problemsOf } from '$lib/core/forms/problems';
  import { invitationSchema } from '$lib/core/people/forms';
  import { roles, type Role } from '$lib/core/people/rights';
  import type { Acting } from './acting.svelte';

  interface Props {
    teams: readonly { readonly id: number; readonly name: string }[];
    acting: Acting;
    /** Once it is sent, or given up. */
    onDone: () => void;
  }
  let { teams, acting, onDone }: Props = $props();
  let invitation = $state<{ name: string; displayName: string; mail: string; role: Role; teamIds: number[] }>({
    ...{ name: '', displayName: '', mail: '', role: 'viewer', teamIds: [] }
  });
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
    onDone();
  }
</script>

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
      <input class="part" aria-label="Sign-in name" placeholder="name" maxlength="60" bind:value={invitation.name} />,
      joins by a link that is sent to
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
      </select>{#if teams.length > 0}&#32;in
        <select
          class="part"
          aria-label="Team"
          value={invitation.teamIds[0] ?? 0}
          onchange={(event) =>
            (invitation.teamIds = event.currentTarget.value === '0' ? [] : [Number(event.currentTarget.value)])}
        >
          <option value={0}>no team</option>
          {#each teams as { id, name } (id)}<option value={id}>{name}</option>{/each}
        </select>{/if}.
    </p>
  </fieldset>
  <div class="flex gap-2">
    <button class="btn btn-main" disabled={acting.busy}>Send the invitation</button>
    <button type="button" class="btn" onclick={() => onDone()}>Cancel</button>
  </div>
</form>
