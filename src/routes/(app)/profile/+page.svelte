<script lang="ts">
  import { untrack } from 'svelte';
  import { severities } from '$lib/core/alarm';
  import Addresses from '$lib/ui/people/Addresses.svelte';
  import Devices from '$lib/ui/people/Devices.svelte';
  import { dateLocales } from '$lib/core/time';
  import { usualQuiet, type Quiet } from '$lib/core/people/quiet';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import SecondFactor from '$lib/ui/people/SecondFactor.svelte';
  import Entry from '$lib/ui/sign-in/Entry.svelte';
  import NewPassword from '$lib/ui/sign-in/NewPassword.svelte';
  import ZoneEntry from '$lib/ui/sign-in/ZoneEntry.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const settings = new Acting();
  const secret = new Acting();
  const ending = new Acting();
  // What is typed stays, whatever arrives meanwhile.
  let displayName = $state(untrack(() => data.profile.displayName));
  let zone = $state(untrack(() => data.profile.zone));
  let dateLocale = $state(untrack(() => data.profile.dateLocale));
  let quiet = $state<Quiet | null>(untrack(() => data.profile.quiet));
  const weekdays = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
  let password = $state('');
  let newPassword = $state('');

  const save = () =>
    settings.call(
      'PUT',
      '/me',
      { body: { displayName, zone, dateLocale, quiet: $state.snapshot(quiet) } },
      'Saved. Pages and messages write dates so from now on.'
    );
  async function changePassword(): Promise<void> {
    const body = { password, newPassword };
    if (await secret.call('POST', '/me/password', { body }, 'The password is changed; all other sessions ended.'))
      password = newPassword = '';
  }
</script>

<svelte:head><title>Profile · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-1">{data.profile.displayName}</h1>
  <p class="text-quiet mb-2.5 text-[13px]">
    You sign in as {data.profile.name}{data.profile.mail === null ? '' : ` or ${data.profile.mail}`}; your role is {data
      .profile.role}.
  </p>
  <div class="grid items-start gap-3 lg:grid-cols-2">
    <form
      class="panel gap-3"
      aria-label="How you are reached"
      onsubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <h2>How you are reached</h2>
      <Outcome acting={settings} />
      <Entry label="Name" name="displayName" autocomplete="name" bind:value={displayName} />
      <ZoneEntry bind:value={zone} />
      <label
        ><span class="mb-1 block text-[13px] font-semibold">Dates</span><select
          class="field"
          name="dateLocale"
          bind:value={dateLocale}
        >
          {#each Object.entries(dateLocales) as [locale, title] (locale)}<option value={locale}>{title}</option>{/each}
        </select></label
      >
      <fieldset class="sentence text-[15px]!">
        <legend class="mb-1 text-[13px] font-semibold">Quiet hours</legend>
        {#if quiet === null}
          <p>
            You are notified at any hour.
            <button type="button" class="link" onclick={() => (quiet = structuredClone(usualQuiet))}
              >Add quiet hours</button
            >
          </p>
        {:else}
          <p>
            From <input class="part" type="time" required aria-label="Quiet from" bind:value={quiet.hours.from} /> to
            <input class="part" type="time" required aria-label="Quiet to" bind:value={quiet.hours.to} />
            you are not disturbed, but for what is
            <select
              class="part"
              aria-label="Exception"
              value={quiet.exceptFrom ?? ''}
              onchange={(event) => {
                if (quiet !== null)
                  quiet.exceptFrom = severities.find((one) => one === event.currentTarget.value) ?? null;
              }}
            >
              <option value="">nothing at all</option>
              {#each severities as severity (severity)}<option value={severity}
                  >{severity === 'critical' ? 'critical' : `${severity} or graver`}</option
                >{/each}
            </select>, and for all of it while you have the watch.
            <button type="button" class="link" onclick={() => (quiet = null)}>Remove</button>
          </p>
          <p class="flex flex-wrap gap-x-3 text-[13px]">
            {#each weekdays as weekday, index (weekday)}<label
                ><input type="checkbox" value={index + 1} bind:group={quiet.hours.weekdays} /> {weekday}</label
              >{/each}
          </p>
          <p class="text-quiet text-[13px]">
            Messages wait until the quiet hours end; the next step of a route does not wait for you.
          </p>
        {/if}
      </fieldset>
      <button class="btn btn-main self-start" disabled={settings.busy}>Save</button>
    </form>

    <div class="flex flex-col gap-3">
      <Addresses addresses={data.channels} />
      <Devices devices={data.devices} />
      {#if data.profile.hasPassword}
        <form
          class="panel gap-3"
          aria-label="Password"
          onsubmit={(event) => {
            event.preventDefault();
            void changePassword();
          }}
        >
          <h2>Password</h2>
          <Outcome acting={secret} />
          <Entry
            label="Present password"
            name="password"
            type="password"
            autocomplete="current-password"
            bind:value={password}
          />
          <NewPassword label="New password" name="newPassword" bind:value={newPassword} />
          <button class="btn self-start" disabled={secret.busy || password === '' || newPassword === ''}
            >Change the password</button
          >
        </form>
        <SecondFactor hasFactor={data.profile.hasFactor} codesLeft={data.profile.codesLeft} />
      {/if}
      <section class="panel gap-2" aria-label="Sessions">
        <div class="flex items-center gap-3">
          <h2>Sessions</h2>
          {#if data.sessions.length > 1}<button
              class="btn ml-auto"
              disabled={ending.busy}
              onclick={() => ending.call('DELETE', '/me/sessions', {}, 'All other sessions ended.')}
              >End all others</button
            >{/if}
        </div>
        <Outcome acting={ending} />
        <table class="rows">
          <thead><tr><th>Since</th><th>From</th><th></th></tr></thead>
          <tbody>
            {#each data.sessions as { id, isThis, createdAt, address, agent } (id)}
              <tr>
                <td><Moment at={createdAt} now={live.now} /></td>
                <td
                  ><span class="num">{address === '' ? 'not known' : address}</span>
                  <span class="text-quiet block max-w-72 truncate text-[12px]" title={agent}>{agent}</span></td
                >
                <td class="right"
                  >{#if isThis}<span class="text-quiet">this one</span>{:else}<button
                      class="btn"
                      disabled={ending.busy}
                      onclick={() => ending.call('DELETE', `/me/sessions/${id}`, {}, 'The session ended.')}>End</button
                    >{/if}</td
                >
              </tr>
            {/each}
          </tbody>
        </table>
      </section>
    </div>
  </div>
</main>
