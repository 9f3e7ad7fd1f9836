<script lang="ts">
  import { channelKindWords } from '$lib/core/notify';
  import { countOf } from '$lib/core/words/count';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import ChangePerson from '$lib/ui/people/ChangePerson.svelte';
  import InvitationForm from '$lib/ui/people/InvitationForm.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayAdminister } = useReader();
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

  /** With which accounts somebody has a right, in words. @param isUsual whether their role has it with all */
  const accountsOf = (said: 'all' | readonly number[] | null, isUsual: boolean): string => {
    if (said === 'all' || (said === null && isUsual)) return 'of every account';
    return data.accounts
      .filter(({ id }) => said?.includes(id))
      .map(({ name }) => name)
      .join(', ');
  };

  let inviting = $state(false);
  /** The person whose row is open. */
  let opened = $state<number | null>(null);
</script>

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
    <InvitationForm teams={data.teams} {acting} onDone={() => (inviting = false)} />
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
            <td>{accountsOf(person.lines, person.role !== 'viewer')}</td>
            <td>{accountsOf(person.acts, person.role === 'administrator')}</td>
            {#if mayAdminister}
              <td
                >{#if person.signedInAt !== null}<Moment at={person.signedInAt} now={live.now} />{/if}</td
              >
              <td>{person.hasFactor ? 'yes' : ''}</td>
              <td class="right"
                ><button
                  class="btn"
                  aria-expanded={opened === person.id}
                  onclick={() => (opened = opened === person.id ? null : person.id)}
                  >Change…<span class="sr-only"> {person.displayName}</span></button
                ></td
              >
            {/if}
          </tr>
          {#if opened === person.id}
            <tr class="detail" aria-label="Change {person.displayName}"
              ><td colspan="10">
                <ChangePerson
                  {person}
                  teams={data.teams}
                  accounts={data.accounts}
                  others={active.filter(({ id }) => id !== person.id)}
                  {acting}
                  onDone={() => (opened = null)}
                />
              </td></tr
            >
          {/if}
        {/each}
      </tbody>
    </table>
  </section>
</main>
