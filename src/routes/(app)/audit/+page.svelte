<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { textFromInstant } from '$lib/core/time';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  /** The address with other filters; from the newest on again. */
  const filtered = (name: string, value: string) => {
    const parameters = new URLSearchParams(page.url.searchParams);
    parameters.delete('before');
    if (value === '') parameters.delete(name);
    else parameters.set(name, value);
    return `?${parameters.toString()}`;
  };
  const choose = (name: string, value: string) =>
    goto(filtered(name, value), { keepFocus: true, noScroll: true, replaceState: true });
  const asTable = $derived.by(() => {
    const { text, personId, outcome } = data.chosen;
    const parameters = new URLSearchParams();
    if (text !== null) parameters.set('text', text);
    if (personId !== null) parameters.set('person', String(personId));
    if (outcome !== null) parameters.set('outcome', outcome);
    if (data.span !== null) {
      parameters.set('from', textFromInstant(data.span.from));
      parameters.set('to', textFromInstant(data.span.to));
    }
    parameters.set('limit', '5000');
    return `/api/v1/acts?${parameters.toString()}`;
  });
  let problem = $state('');
  /** Saves what is filtered as a file. */
  async function save(): Promise<void> {
    const response = await fetch(asTable, { headers: { accept: 'text/csv' } }).catch(() => null);
    problem = response?.ok ? '' : 'The list could not be read. Try again in a moment.';
    if (!response?.ok) return;
    const link = document.createElement('a');
    link.href = URL.createObjectURL(await response.blob());
    link.download = 'acts.csv';
    link.click();
    URL.revokeObjectURL(link.href);
  }
  const meansWords = {
    person: '',
    key: 'by a key',
    link: 'by a link',
    nobody: 'not signed in',
    response: 'by itself'
  } as const;
</script>

<svelte:head><title>Audit · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-1">Who did what</h1>
  <p class="text-quiet mb-2.5 text-[13px]">
    What was changed, acknowledged, shelved, exported, and who signed in or failed to. It is stored for {data.keptDays}
    days, and nobody can change it.
  </p>
  <div class="mb-2 flex flex-wrap items-center gap-2">
    <input
      class="field max-w-60"
      type="search"
      aria-label="Search"
      placeholder="name, act or address"
      value={data.chosen.text ?? ''}
      onchange={(event) => choose('text', event.currentTarget.value.trim())}
    />
    <select
      class="field w-auto!"
      aria-label="Person"
      value={String(data.chosen.personId ?? '')}
      onchange={(event) => choose('person', event.currentTarget.value)}
    >
      <option value="">everybody</option>
      {#each data.people as { id, displayName } (id)}<option value={String(id)}>{displayName}</option>{/each}
    </select>
    <select
      class="field w-auto!"
      aria-label="Outcome"
      value={data.chosen.outcome ?? ''}
      onchange={(event) => choose('outcome', event.currentTarget.value)}
    >
      <option value="">done or refused</option>
      <option value="done">done</option>
      <option value="refused">refused</option>
    </select>
    <input
      class="field w-auto!"
      type="date"
      aria-label="Day"
      value={data.chosen.day ?? ''}
      onchange={(event) => choose('day', event.currentTarget.value)}
    />
    <button class="btn ml-auto" onclick={save}>Save as CSV</button>
  </div>
  {#if problem}<p class="fault mb-2" role="alert">{problem}</p>{/if}
  <section class="panel overflow-x-auto" aria-label="Acts">
    <table class="rows min-w-[720px]">
      <thead><tr><th>When</th><th>Who</th><th>What</th><th>On</th><th>From</th></tr></thead>
      <tbody>
        {#each data.acts as { id, at, by, means, what, subject, path, outcome, address } (id)}
          <tr data-act={id}>
            <td><Moment {at} now={live.now} /></td>
            <td
              >{by}{#if meansWords[means]}<span class="text-quiet">{by === '' ? '' : ', '}{meansWords[means]}</span
                >{/if}</td
            >
            <td
              >{what}
              {#if outcome === 'refused'}<span class="fault">refused</span>{/if}</td
            >
            <td
              >{#if path !== ''}<a class="link" href={path}>{subject}</a>{:else}{subject}{/if}</td
            >
            <td class="num text-quiet">{address}</td>
          </tr>
        {:else}<tr><td colspan="5" class="text-quiet">Nothing that these filters find.</td></tr>{/each}
      </tbody>
    </table>
    {#if data.more}<a
        class="link mt-2 self-start text-[13px]"
        href={filtered('before', String(data.acts.at(-1)?.id ?? 0))}>Older</a
      >{/if}
  </section>
</main>
