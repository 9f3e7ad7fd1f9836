<script lang="ts">
  import { callApi, wordsOf } from '../../api';
  import type { CatalogueEntry } from '$lib/core/catalogue';
  import { pictured, suggestedPicture, whySuggested, type PanelContent } from '$lib/core/board';
  import type { QueryAnswer } from '$lib/core/series';
  import { plainSignal, usualStatistic, type Signal } from '$lib/core/signal';
  import { oneOfType, serviceByKey, withArticle } from '$lib/core/services';
  import { before, duration, hour, minute, range, textFromDuration, times, type Instant } from '$lib/core/time';
  import { unit } from '$lib/core/units';
  import Margin from '../../margin/Margin.svelte';
  import { post, spanOf } from '../data/panel-data.svelte';
  import type { BoardMetric } from '../data/board-context.svelte';

  interface Props {
    now: Instant;
    /** The service whose metrics come first; null for all alike. */
    service: string | null;
    onAdd: (content: PanelContent, metric: BoardMetric | null) => void;
    onClose: () => void;
  }
  let { now, service, onAdd, onClose }: Props = $props();
  let text = $state('');
  let found = $state.raw<CatalogueEntry[]>([]);
  let chosen = $state(0);
  let done = $state('');
  let problem = $state('');
  let asking: AbortController | null = null;

  const counted = (lines: string, by: string[]): Signal => ({
    version: 2,
    step: 'auto',
    rows: [{ name: 'a', lines, where: [], by }]
  });
  const topTen = { keep: 10, order: 'highest', by: 'sum', rest: 'leave out' } as const;
  /** What a board can show besides metrics, with the words it is found by. */
  const others: readonly { title: string; about: string; content: PanelContent }[] = [
    {
      title: 'Text',
      about: 'explain, link to other boards, write down what to do',
      content: { picture: 'text', title: 'Read this first', text: 'Write **CommonMark** here.' }
    },
    {
      title: 'Incidents',
      about: 'what was raised in the shown range',
      content: { picture: 'incidents', title: 'Raised here', open: false }
    },
    { title: 'Alarms', about: 'alarms with their states', content: { picture: 'alarms', title: 'Alarms' } },
    {
      title: 'Services at a glance',
      about: 'status list: resources and highest severity of each service',
      content: { picture: 'status', title: 'Services', of: 'services' }
    },
    {
      title: 'Groups at a glance',
      about: 'status list: resources and highest severity of each group',
      content: { picture: 'status', title: 'Groups', of: 'groups' }
    },
    {
      title: 'Promises',
      about: 'what is left of each error budget, and how long it lasts',
      content: { picture: 'promises', title: 'Promises', only: [] }
    },
    {
      title: 'Stopped reporting',
      about: 'resources that sent nothing for a while',
      content: { picture: 'silent', title: 'Stopped reporting', minutes: 15 }
    },
    {
      title: 'Resources seen',
      about: 'table of resources that were there in the last 48 hours: first seen, last seen, state, new, ended',
      content: { picture: 'resources', title: 'Resources of the last 48 hours', hours: 48 }
    },
    {
      title: 'Lines of logs',
      about: 'the newest lines that a search finds: errors, logs',
      content: { picture: 'log', title: 'Lines', search: 'severity >= error', rows: 30 }
    },
    {
      title: 'Number of lines',
      about: 'count of log lines over time by severity, or by any field: bars',
      content: { picture: 'bars', title: 'Lines by severity', signal: counted('', ['severity']) }
    },
    {
      title: 'Top errors',
      about: 'log lines of errors that are alike, the most frequent first: ranks',
      content: {
        ...{ picture: 'ranks', title: 'Top errors', reduce: 'sum' },
        signal: { ...counted('severity >= error', ['shape']), limit: topTen }
      }
    },
    {
      title: 'Marks',
      about: 'deployments and other marks in the shown range',
      content: { picture: 'marks', title: 'Marks' }
    }
  ];
  const words = $derived(text.trim().toLowerCase().split(/\s+/).filter(Boolean));
  const otherFound = $derived(
    others.filter(({ title, about }) => words.every((word) => `${title} ${about}`.toLowerCase().includes(word)))
  );
  const count = $derived(found.length + otherFound.length);

  async function search(wanted: string, of: string | null): Promise<void> {
    asking?.abort();
    const mine = (asking = new AbortController());
    const query = { text: wanted, limit: '30', service: wanted === '' ? (of ?? undefined) : undefined };
    const reply = await callApi<{ metrics: CatalogueEntry[] }>('GET', '/metrics', { query, signal: mine.signal });
    if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    if (reply.kind !== 'answered') return;
    found = reply.answer.metrics;
    chosen = 0;
    problem = '';
  }
  /** The search under way: Enter waits for what was typed to be found. */
  let searching: Promise<void> = Promise.resolve();
  $effect(() => {
    searching = search(text, service);
  });

  /** Adds a metric in the picture that suits the data it has now. */
  async function addMetric(entry: CatalogueEntry): Promise<void> {
    const { name, title, kind, labels, samplingMs } = entry;
    const signal = plainSignal({
      metric: name,
      statistic: usualStatistic(kind),
      step: textFromDuration(duration(Math.max(minute, samplingMs)))
    });
    const span = spanOf(range(before(now, times(12, hour)), now));
    const reply = await post<QueryAnswer>('/query', { signal, ...span, cells: 60 }, new AbortController().signal);
    const series = reply !== null && 'series' in reply ? reply.series : [];
    const code = reply !== null && 'series' in reply ? (reply.rows[0]?.unit ?? entry.unit) : entry.unit;
    const { bounds } = unit(code);
    const picture = suggestedPicture({
      series: series.length,
      bounded: bounds !== undefined,
      resources: new Set(series.map(({ resourceId }) => resourceId)).size,
      kind,
      parts: Object.keys(labels).length > 0
    });
    onAdd(pictured(title, signal, picture, bounds), { ...entry, labels: Object.keys(labels) });
    done = `${title} was added: ${whySuggested(picture)}. Type on for the next one.`;
  }

  async function add(index: number): Promise<void> {
    const entry = found[index];
    if (entry) await addMetric(entry);
    else {
      const other = otherFound[index - found.length];
      if (!other) return;
      onAdd(other.content, null);
      done = `${other.title} was added. Type on for the next one.`;
    }
    text = '';
  }

  function onKey(event: KeyboardEvent): void {
    if (event.key === 'ArrowDown') chosen = Math.min(count - 1, chosen + 1);
    else if (event.key === 'ArrowUp') chosen = Math.max(0, chosen - 1);
    else if (event.key === 'Enter') void searching.then(() => add(chosen));
    else return;
    event.preventDefault();
  }
  const focus = (node: HTMLInputElement) => node.focus();
</script>

<Margin title="Add a panel" {onClose}>
  <label class="block text-[13px] font-semibold" for="what-to-see">What do you want to see?</label>
  <input
    id="what-to-see"
    class="field mt-1"
    placeholder="Words of a metric, service; or text, alarms …"
    autocomplete="off"
    role="combobox"
    aria-expanded="true"
    aria-controls="what-found"
    aria-activedescendant="what-{chosen}"
    bind:value={text}
    onkeydown={onKey}
    use:focus
  />
  {#if done}<p class="text-quiet mt-1 text-[12px]" role="status">{done}</p>{/if}
  {#if problem}<p class="fault mt-1 text-[13px]" role="alert">{problem}</p>{/if}
  <ul id="what-found" class="border-line mt-2 border-t" role="listbox" aria-label="What can be seen">
    {#each found as { name, title, service: of, resourceType, series, state }, index (name)}
      <li
        id="what-{index}"
        class={['border-line border-b', index === chosen && 'bg-shallow']}
        role="option"
        aria-selected={index === chosen}
      >
        <button class="block w-full px-2 py-1 text-left" tabindex="-1" onclick={() => void add(index)}>
          <span class="block text-[13px] font-semibold">{title}</span>
          <span class="text-quiet block text-[12px]"
            >{serviceByKey(of).title}, {series} series of {withArticle(oneOfType(resourceType))}{state === 'collected'
              ? ''
              : `, ${state}`}</span
          >
        </button>
      </li>
    {/each}
    {#each otherFound as { title, about }, index (title)}
      <li
        id="what-{found.length + index}"
        class={['border-line border-b', found.length + index === chosen && 'bg-shallow']}
        role="option"
        aria-selected={found.length + index === chosen}
      >
        <button class="block w-full px-2 py-1 text-left" tabindex="-1" onclick={() => void add(found.length + index)}>
          <span class="block text-[13px] font-semibold">{title}</span>
          <span class="text-quiet block text-[12px]">{about}</span>
        </button>
      </li>
    {/each}
  </ul>
  {#if count === 0 && text !== ''}<p class="text-quiet py-2 text-[13px]">
      Nothing has these words. A signal of several metrics is composed on the bench and sent here.
    </p>{/if}
</Margin>
