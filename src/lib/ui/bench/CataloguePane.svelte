<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import { callApi, answerOrNull, wordsOf } from '../api';
  import { catalogueStates, type CatalogueEntry } from '$lib/core/catalogue';
  import { duration, spokenDuration } from '$lib/core/time';
  import { unit } from '$lib/core/units';
  import { oneOfType, serviceByKey } from '$lib/core/services';
  import MetricDetail from './MetricDetail.svelte';

  interface Props {
    /** The service to begin with; null for all. */
    service: string | null;
    /** Whether a metric may be put in a row's place. */
    mayReplace: boolean;
    onUse: (entry: CatalogueEntry, how: 'add' | 'replace') => void;
    /** A metric was described anew. */
    onChanged: () => void;
  }
  let { service, mayReplace, onUse, onChanged }: Props = $props();
  const filters = ['any', ...catalogueStates, 'pushed'] as const;
  let text = $state('');
  let wanted = $state<(typeof filters)[number]>('collected');
  let everywhere = $state(false);
  let found = $state.raw<{ found: number; metrics: CatalogueEntry[] } | null>(null);
  let problem = $state<string | null>(null);
  let selected = $state.raw<CatalogueEntry | null>(null);
  let asking: AbortController | null = null;

  async function find(words: string, filter: string, of: string | null): Promise<void> {
    asking?.abort();
    const mine = (asking = new AbortController());
    const query = { text: words, state: filter === 'any' ? undefined : filter, service: of ?? undefined };
    const reply = await callApi<NonNullable<typeof found>>('GET', '/metrics', { query, signal: mine.signal });
    if (reply.kind === 'cancelled') return;
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : null;
    found = answerOrNull(reply) ?? found;
  }
  $effect(() => void find(text, wanted, everywhere ? null : service));

  async function described(): Promise<void> {
    await find(text, wanted, everywhere ? null : service);
    selected = found?.metrics.find(({ name }) => name === selected?.name) ?? selected;
    onChanged();
  }

  function onKey(event: KeyboardEvent): void {
    const list = found?.metrics ?? [];
    const at = list.findIndex(({ name }) => name === selected?.name);
    if (event.key === 'ArrowDown') selected = list[Math.min(list.length - 1, at + 1)] ?? null;
    else if (event.key === 'ArrowUp') selected = list[Math.max(0, at - 1)] ?? null;
    else if (event.key === 'Enter' && selected) onUse(selected, 'add');
    else return;
    event.preventDefault();
  }

  const about = ({ resourceType, samplingMs, kind, unit: code }: CatalogueEntry) =>
    [
      oneOfType(resourceType),
      `every ${spokenDuration(duration(samplingMs))}`,
      ...(kind === 'cumulative' ? ['running total'] : kind === 'delta' ? ['counts what changed'] : []),
      ...(unit(code).text === '' ? [] : [unit(code).text])
    ].join(', ');
</script>

<section class="panel h-full min-h-0 w-[268px] shrink-0 max-md:w-full" aria-label="Catalogue">
  <header>
    <h2>Catalogue</h2>
    <small>{found === null ? '' : countOf(found.found, 'metric')}</small>
    {#if service !== null}
      <label class="text-quiet ml-auto flex items-center gap-1 text-[12px]"
        ><input type="checkbox" bind:checked={everywhere} />beyond {serviceByKey(service).title.toLowerCase()}</label
      >
    {/if}
  </header>
  <input
    class="field text-[13px]!"
    type="search"
    placeholder="Words of a metric, label, service"
    aria-label="Search the catalogue"
    bind:value={text}
    onkeydown={onKey}
  />
  <div class="flex flex-wrap gap-x-2 py-1 text-[12px]" role="group" aria-label="Which metrics">
    {#each filters as one (one)}
      <button
        class={['whitespace-nowrap', wanted === one ? 'font-semibold underline underline-offset-4' : 'text-quiet']}
        aria-pressed={wanted === one}
        onclick={() => (wanted = one)}>{one}</button
      >
    {/each}
  </div>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  <ul class="border-line min-h-[120px] flex-1 overflow-y-auto border-t" aria-label="Metrics found">
    {#each found?.metrics ?? [] as entry (entry.name)}
      <li class={['border-line border-b', selected?.name === entry.name && 'bg-shallow']}>
        <button
          class="block w-full px-2 py-1 text-left"
          aria-pressed={selected?.name === entry.name}
          onclick={() => (selected = entry)}
          ondblclick={() => onUse(entry, 'add')}
        >
          <span class="block text-[13px] font-semibold">{entry.title}</span>
          <span class="text-quiet block text-[12px]">{about(entry)}</span>
        </button>
      </li>
    {:else}
      <li class="text-quiet px-2 py-2 text-[13px]">
        {#if found === null}Reading…{:else if text !== ''}No metric has these words.
          {#if wanted !== 'any'}<button class="link" onclick={() => (wanted = 'any')}>Look among all</button
            >{/if}{:else}Nothing is {wanted} here.
          <a class="link" href="/coverage">See what is collected</a>{/if}
      </li>
    {/each}
  </ul>
  {#if selected}
    {#key selected.name}<MetricDetail
        entry={selected}
        {mayReplace}
        onUse={(how: 'add' | 'replace') => selected && onUse(selected, how)}
        onChanged={() => void described()}
      />{/key}
  {/if}
</section>
