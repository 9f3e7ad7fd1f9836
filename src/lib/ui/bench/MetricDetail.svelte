<script lang="ts">
  import { callApi, answerOrNull, wordsOf } from '../api';
  import type { CatalogueEntry } from '$lib/core/catalogue';
  import { valuesOf } from '$lib/core/series';
  import { usualStatistic, type Signal } from '$lib/core/signal';
  import { before, duration, hour, range, spokenDuration, times } from '$lib/core/time';
  import { unit } from '$lib/core/units';
  import { PanelData } from '../board/data/panel-data.svelte';
  import Spark from '../chart/Spark.svelte';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import UnitChoice from '../unit/UnitChoice.svelte';
  import Moment from '../time/Moment.svelte';
  import { untrack } from 'svelte';

  interface Props {
    entry: CatalogueEntry;
    mayReplace: boolean;
    onUse: (how: 'add' | 'replace') => void;
    /** Its description was changed here. */
    onChanged: () => void;
  }
  let { entry, mayReplace, onUse, onChanged }: Props = $props();
  const { mayEdit } = useReader();
  let problem = $state('');
  const live = useLive();
  const panel = new PanelData();
  let uses = $state.raw<{ kind: string; id: number; name: string }[] | null>(null);

  $effect(() => {
    const now = untrack(() => live.now);
    const statistic = usualStatistic(entry.kind);
    const signal: Signal = {
      version: 2,
      step: 'auto',
      rows: [{ name: 'a', metric: entry.name, where: [], statistic, combine: { statistic: 'avg', by: [] } }]
    };
    if (entry.series > 0) void panel.ask(signal, range(before(now, times(6, hour)), now), 90);
    void readUses(entry.name);
    return () => panel.stop();
  });

  async function readUses(name: string): Promise<void> {
    const reply = await callApi<{ uses: typeof uses }>('GET', `/metrics/${encodeURIComponent(name)}`);
    uses = answerOrNull(reply)?.uses ?? uses;
  }

  /** The numbers stay as they are: they were in this unit all along. */
  async function correct(code: string | undefined): Promise<void> {
    if (code === undefined) return;
    const reply = await callApi('PUT', `/metrics/${encodeURIComponent(entry.name)}/unit`, { body: { unit: code } });
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    if (reply.kind === 'answered') onChanged();
  }

  const hrefOf = ({ kind, id }: { kind: string; id: number }) =>
    kind === 'alarm'
      ? `/alarms/${id}`
      : kind === 'board'
        ? `/boards/${id}`
        : kind === 'signal'
          ? `/bench?kept=${id}`
          : '/derived';
  const values = $derived(panel.answer?.series[0] ? valuesOf(panel.answer.series[0]) : null);
  const kinds = { gauge: 'value of the moment', delta: 'change since the last', cumulative: 'running total' };
  const listed = (all: readonly string[]) =>
    all.length > 4 ? `${all.slice(0, 3).join(', ')} and ${all.length - 3} more` : all.join(', ');
  const rows = $derived([
    ['kind', [kinds[entry.kind], unit(entry.unit).text].filter(Boolean).join(', ')],
    [
      'points',
      `${entry.shape === 'summary' ? 'summaries' : 'single readings'}, every ${spokenDuration(duration(entry.samplingMs))}`
    ],
    ['arrives', entry.delayMs === 0 ? 'at once' : `up to ${spokenDuration(duration(entry.delayMs))} late`],
    [
      'where',
      entry.accounts.length === 0 ? 'in no account yet' : `${listed(entry.accounts)}; ${listed(entry.regions)}`
    ],
    ['series', [String(entry.series), ...Object.keys(entry.labels).map((label) => `by ${label}`)].join(', ')]
  ]);
</script>

<div class="border-strong max-h-[46%] overflow-y-auto border-t pt-2" aria-label="About {entry.title}">
  <h3 class="text-[13px] font-semibold">{entry.title}</h3>
  <p class="text-quiet text-[12px]">{entry.description}</p>
  <p class="num text-quiet text-[11.5px]! break-all">{entry.name}</p>
  <div class="h-[34px]">
    {#if values}<Spark {values} width={240} />{/if}
  </div>
  <p class="my-1 flex gap-2">
    <button class="btn btn-main" onclick={() => onUse('add')}>Add as a row</button>
    {#if mayReplace}<button class="btn" onclick={() => onUse('replace')}>Put in the row’s place</button>{/if}
  </p>
  <table class="w-full text-[12px]">
    <tbody>
      {#each rows as [name, value] (name)}
        <tr class="border-line border-t"
          ><td class="text-quiet w-[52px] py-0.5 align-top">{name}</td><td class="py-0.5">{value}</td></tr
        >
      {/each}
      {#if mayEdit && entry.providers.includes('pushed')}
        <tr class="border-line border-t">
          <td class="text-quiet py-0.5 align-top">unit</td>
          <td class="py-0.5"
            ><UnitChoice
              label="Unit of the metric"
              value={entry.unit}
              from={entry.unit}
              none="no unit"
              fitting={false}
              onChoose={correct}
            />{#if problem}<span class="fault block" role="alert">{problem}</span>{:else}<span class="text-quiet block"
                >If the program says a wrong unit, correct it: the numbers stay.</span
              >{/if}</td
          >
        </tr>
      {/if}
      <tr class="border-line border-t">
        <td class="text-quiet py-0.5 align-top">newest</td>
        <td class="py-0.5"
          >{#if entry.newest === null}nothing has arrived{:else}<Moment
              at={entry.newest}
              now={live.now}
            />{/if}{entry.state === 'stale' ? ', stale' : ''}</td
        >
      </tr>
      <tr class="border-line border-t">
        <td class="text-quiet py-0.5 align-top">used by</td>
        <td class="py-0.5">
          {#each uses ?? [] as use, index (`${use.kind} ${use.id}`)}{index > 0 ? ', ' : ''}<a
              class="link"
              href={hrefOf(use)}>{use.name}</a
            >{:else}{uses === null ? '' : 'nothing yet'}{/each}
        </td>
      </tr>
    </tbody>
  </table>
</div>
