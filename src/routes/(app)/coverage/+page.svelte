<script lang="ts">
  import { enhance } from '$app/forms';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { serviceByKey } from '$lib/core/services';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data, form }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  let words = $state('');
  let kind = $state('');
  let picked = $state<number[]>([]);
  const shown = $derived(
    data.resources.filter(
      (one) =>
        (kind === '' || one.state === kind) &&
        `${one.name} ${one.account} ${one.region} ${Object.values(one.tags).join(' ')} ${one.formerNames.map(({ name }) => name).join(' ')}`
          .toLowerCase()
          .includes(words.toLowerCase())
    )
  );
  const count = (wanted: string) => data.resources.filter((one) => one.state === wanted).length;
  const all = $derived(shown.length > 0 && shown.every(({ id }) => picked.includes(id)));

  useRefresh(live, ['account'], 'bussola:accounts');

  function narrow(name: string, value: string): void {
    const search = new URLSearchParams(page.url.search);
    if (value === '') search.delete(name);
    else search.set(name, value);
    picked = [];
    void goto(`?${search.toString()}`, { keepFocus: true });
  }
  const after =
    () =>
    async ({ update }: { update: (options?: { reset?: boolean }) => Promise<void> }) => {
      await update({ reset: false });
      picked = [];
    };
</script>

<svelte:head><title>Coverage · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>{data.service === null ? 'Coverage' : `${serviceByKey(data.service).title}, each one`}</h1>
    <span class="text-quiet"
      >{count('collected')} of {data.resources.length} collected, {count('not collected')} not, {count('cannot be')} cannot
      be</span
    >
  </div>
  <div class="mb-2.5 flex flex-wrap items-center gap-2 text-[13px]">
    <input class="field w-[220px]!" placeholder="Name, region, tag" aria-label="Find a resource" bind:value={words} />
    <select
      class="field w-auto!"
      aria-label="Account"
      value={data.account ?? ''}
      onchange={(event) => narrow('account', event.currentTarget.value)}
    >
      <option value="">every account</option>
      {#each data.accounts as { id, name } (id)}<option value={id}>{name}</option>{/each}
    </select>
    <select
      class="field w-auto!"
      aria-label="Service"
      value={data.service ?? ''}
      onchange={(event) => narrow('service', event.currentTarget.value)}
    >
      <option value="">every service</option>
      {#each data.services as service (service)}<option value={service}>{serviceByKey(service).title}</option>{/each}
    </select>
    <select class="field w-auto!" aria-label="State" bind:value={kind}>
      <option value="">collected or not</option><option>collected</option><option>not collected</option><option
        >cannot be</option
      >
    </select>
    {#if mayEdit && data.account !== null && data.service !== null}
      <form method="post" action="?/service" class="ml-auto flex gap-2" use:enhance={after}>
        <input type="hidden" name="account" value={data.account} /><input
          type="hidden"
          name="service"
          value={data.service}
        />
        <button class="btn" name="collect" value="all">Collect all, including resources discovered later</button>
        <button class="btn" name="collect" value="chosen">Only the chosen</button>
        <button class="btn" name="collect" value="nothing">None</button>
      </form>
    {/if}
  </div>
  {#if form && 'problem' in form && form.problem}<p class="fault mb-2 text-[13px]" role="alert">{form.problem}</p>{/if}
  {#if form && 'done' in form && form.done}<p class="text-ok mb-2 text-[13px]" role="status">{form.done}</p>{/if}
  <form method="post" action="?/choose" class="panel p-0!" use:enhance={after}>
    {#if mayEdit}
      <div class="border-line flex items-center gap-2 border-b px-2.5 py-1.5 text-[13px]">
        <span class="text-quiet"
          >{picked.length === 0 ? 'Choose some to change them together' : `${picked.length} chosen`}</span
        >
        <span class="ml-auto flex gap-2">
          <button class="btn" name="word" value="on" disabled={picked.length === 0}>Collect</button>
          <button class="btn" name="word" value="off" disabled={picked.length === 0}>Do not collect</button>
          <button class="btn" name="word" value="plan" disabled={picked.length === 0}>Follow the plan</button>
          <button class="btn" formaction="?/guests" disabled={picked.length === 0}>Switch guest level on</button>
        </span>
      </div>
    {/if}
    <div class="overflow-x-auto">
      <table class="rows">
        <thead>
          <tr>
            {#if mayEdit}<th class="w-8"
                ><input
                  type="checkbox"
                  aria-label="Choose all shown"
                  checked={all}
                  onchange={() => (picked = all ? [] : shown.map(({ id }) => id))}
                /></th
              >{/if}
            <th></th><th>Resource</th><th>Account</th><th>Type</th><th>Region</th><th class="right">Metrics</th><th
              class="right">Series</th
            ><th>Collected</th><th>Guest level</th><th>First seen</th>
          </tr>
        </thead>
        <tbody>
          {#each shown as one (one.id)}
            <tr data-resource={one.name} data-state={one.state} class={[one.endedAt !== null && 'text-quiet']}>
              {#if mayEdit}<td
                  ><input
                    type="checkbox"
                    name="id"
                    value={one.id}
                    bind:group={picked}
                    aria-label="Choose {one.name}"
                  /></td
                >{/if}
              <td><SeverityHoist severity={null} indeterminate={one.state !== 'collected'} /></td>
              <td class="max-w-[240px]">
                <b>{one.name}</b>
                {#each one.formerNames as { name, until } (name)}<span class="text-quiet block text-[12px]"
                    >was {name} until <Moment at={until} now={live.now} /></span
                  >{/each}
                {#if one.endedAt}<span class="block text-[12px]">ended <Moment at={one.endedAt} now={live.now} /></span
                  >{/if}
              </td>
              <td>{one.account}</td><td>{one.type}</td><td>{one.region}</td>
              <td class="num right">{one.metrics}</td><td class="num right">{one.series}</td>
              <td class={['text-[12.5px]', one.state === 'cannot be' && 'fault']}
                >{one.state}<span class={['block', one.state !== 'cannot be' && 'text-quiet']}>{one.why}</span></td
              >
              <td>{one.guest === 'none' ? '' : one.guest}</td>
              <td><Moment at={one.firstSeenAt} now={live.now} /></td>
            </tr>
          {:else}
            <tr
              ><td colspan="11" class="text-quiet"
                >{data.resources.length === 0 ? 'Nothing has been found yet. ' : 'Nothing matches. '}<a
                  class="link"
                  href={withRange('/accounts')}>See how the accounts do</a
                ></td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    </div>
  </form>
</main>
