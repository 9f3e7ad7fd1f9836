<script lang="ts">
  import { nodeFields, quotedSearch, severityName } from '$lib/core/logs';
  import { exactMoment, type Instant } from '$lib/core/time';
  import { DateTime } from 'luxon';
  import type { Severity } from '$lib/core/alarm';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { answerOrNull, callApi, wordsOf } from '../api';
  import { useReader } from '../time/reader';
  import { withRange } from '../time/shown';
  import LineTable from './LineTable.svelte';
  import ResourceThen from './ResourceThen.svelte';
  import LineText from './LineText.svelte';

  interface Value {
    name: string;
    kind: string;
    value: string;
  }
  interface WholeLine {
    key: string;
    at: Instant;
    nanos: number;
    severity: number;
    severityText: string;
    text: string;
    isCut: boolean;
    account: string;
    service: string;
    stream: string;
    resource: string;
    resourceId: number | null;
    shape: number;
    trace: string;
    span: string;
    event: string;
    fields: Value[];
    origin: Value[];
    dropped: number;
  }
  interface Props {
    /** Which line. */
    line: string;
    /** Adds a clause to the search. */
    onNarrow: (clause: string) => void;
    /** Searches for something else. */
    onSearch: (search: string) => void;
    onChoose: (key: string) => void;
  }
  let { line: key, onNarrow, onSearch, onChoose }: Props = $props();
  const reader = useReader();
  let line = $state.raw<WholeLine | null>(null);
  let around = $state.raw<WholeLine[] | null>(null);
  let problem = $state('');
  interface Near {
    at: Instant;
    kind: 'incident' | 'mark' | 'event';
    text: string;
    severity: Severity | null;
    incidentId: number | null;
  }
  const timeOf = (at: number): string => DateTime.fromMillis(at, { zone: reader.zone }).toFormat('HH:mm');
  let near = $state.raw<readonly Near[]>([]);
  /** Of what the lines around it are. */
  let aroundOf = $state<'stream' | 'node'>('stream');
  const each = 10;
  const node = $derived(
    nodeFields
      .map((name) => [...(line?.fields ?? []), ...(line?.origin ?? [])].find((one) => one.name === name)?.value)
      .find(Boolean) ?? ''
  );

  $effect(() => {
    const wanted = key;
    const end = new AbortController();
    around = null;
    void callApi<WholeLine>('GET', `/lines/${wanted}`, { signal: end.signal }).then((reply) => {
      if (reply.kind === 'cancelled') return;
      line = reply.kind === 'answered' ? reply.answer : null;
      problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    });
    near = [];
    void callApi<{ near: Near[] }>('GET', `/lines/${wanted}/near`, { signal: end.signal }).then(
      (reply) => (near = answerOrNull(reply)?.near ?? [])
    );
    return () => end.abort();
  });

  async function lookAround(of: 'stream' | 'node'): Promise<void> {
    const reply = await callApi<{ lines: WholeLine[] }>('GET', `/lines/${key}/around`, {
      query: { each: String(each), of }
    });
    aroundOf = of;
    if (reply.kind === 'answered') around = reply.answer.lines;
    else if (reply.kind === 'refused') problem = wordsOf(reply.problem);
  }
</script>

<section class="panel" aria-label="This line">
  <header>
    <h2>This line</h2>
    {#if line}<small class="num">{exactMoment(line.at, reader.zone)}</small>{/if}
  </header>
  {#if problem !== ''}<p class="text-[13px]" role="alert">{problem}</p>{/if}
  {#if line}
    <p class="num mb-2 max-h-[240px] overflow-y-auto text-[13px]"><LineText text={line.text} most={20_000} /></p>
    <table class="rows w-full text-[12px]">
      <tbody>
        {#if line.severity > 0}{@render row(
            'severity',
            `${severityName(line.severity)} (${line.severity})`,
            `severity = ${severityName(line.severity)}`
          )}{/if}
        {@render row('service', line.service)}
        {#if line.resource !== ''}{@render row('resource', line.resource)}{/if}
        {@render row('stream', line.stream)}
        {@render row('account', line.account)}
        {#if line.event !== ''}{@render row('event', line.event)}{/if}
        {#if line.trace !== ''}{@render row('trace', line.trace)}{/if}
        {#each [...line.fields, ...line.origin] as { name, value }, index (index)}{@render row(name, value)}{/each}
      </tbody>
    </table>
    {#if line.dropped > 0}<p class="text-quiet mt-1 text-[12px]">{line.dropped} more fields were left out.</p>{/if}
    <div class="mt-2 flex flex-wrap gap-2">
      <button class="btn" onclick={() => void lookAround('stream')}>{each} lines around</button>
      {#if node !== ''}<button class="btn" onclick={() => void lookAround('node')}>Around it on {node}</button>{/if}
      {#if line.resourceId !== null}<a class="btn" href={withRange(`/resources/${line.resourceId}`)}
          >{line.resource}, its metrics</a
        >{/if}
      <button
        class="btn"
        onclick={() => onNarrow(`stream = ${quotedSearch(line?.stream ?? '')} shape = ${line?.shape}`)}
        >Only lines like it</button
      >
      {#if line.trace !== ''}<button class="btn" onclick={() => onSearch(`trace = ${line?.trace}`)}
          >All lines of its trace</button
        >{/if}
    </div>
    {#if around !== null}
      <h3 class="mt-3 mb-1 text-[13px] font-semibold">
        Around it, {aroundOf === 'node' ? `on ${node}` : `in ${line.stream}`}
      </h3>
      <LineTable lines={around} chosen={key} isNarrow {onChoose} />
    {/if}
    {#if line.resourceId !== null}<ResourceThen
        resourceId={line.resourceId}
        resource={line.resource}
        at={line.at}
      />{/if}
    {#if near.length > 0}
      <h3 class="mt-3 mb-1 text-[13px] font-semibold">At the same time</h3>
      <ul class="text-[12.5px]" aria-label="At the same time">
        {#each near as one, index (index)}
          <li class="flex items-baseline gap-2 py-0.5">
            {#if one.severity !== null}<SeverityHoist severity={one.severity} indeterminate={false} />{/if}
            <span class="min-w-0 flex-1"
              >{#if one.incidentId !== null}<a class="link" href={withRange(`/incidents/${one.incidentId}`)}
                  >{one.text}</a
                >{:else}{one.kind}: {one.text}{/if}</span
            >
            <span class="num text-quiet">{timeOf(one.at)}</span>
          </li>
        {/each}
      </ul>
    {/if}
  {:else if problem === ''}<p class="text-quiet text-[13px]">Reading it …</p>{/if}
</section>

{#snippet row(name: string, value: string, clause = `${quotedSearch(name)} = ${quotedSearch(value)}`)}
  <tr>
    <td class="text-quiet w-[1%] align-top whitespace-nowrap">{name}</td>
    <td class="num break-all"
      ><button class="text-left hover:underline" title="Search for this value as well" onclick={() => onNarrow(clause)}
        ><LineText text={value} most={500} /></button
      ></td
    >
  </tr>
{/snippet}
