<script lang="ts">
  import { callApi, wordsOf } from '../api';
  import { plainSignal } from '$lib/core/signal';
  import type { Instant } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';
  import { useReader } from '../time/reader';
  import { withRange } from '../time/shown';
  import Margin from './Margin.svelte';

  interface Detail {
    name: string;
    providerId: string;
    account: string;
    region: string;
    type: string;
    tags: Record<string, string>;
    firstSeenAt: Instant;
    lastSeenAt: Instant;
    exemplars: { at: Instant; value: number; labels: Record<string, string>; metric: string }[];
  }
  let { resourceId, onClose }: { resourceId: number; onClose: () => void } = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const reading = $derived(read(resourceId));

  async function read(id: number): Promise<Detail> {
    const reply = await callApi<Detail>('GET', `/resources/${id}`);
    if (reply.kind !== 'answered') throw new Error(reply.kind === 'refused' ? wordsOf(reply.problem) : 'Cancelled.');
    return reply.answer;
  }

  const alarmOn = (name: string, metric: string) =>
    withRange(
      `/alarms/new?signal=${encodeURIComponent(JSON.stringify(plainSignal({ metric, where: [{ label: 'resource', is: [name] }], statistic: 'avg' })))}`
    );
</script>

{#await reading}
  <Margin title="Reading…" {onClose}><div class="h-64"></div></Margin>
{:then { name, providerId, account, region, type, tags, firstSeenAt, lastSeenAt, exemplars }}
  <Margin title={name} {onClose}>
    <table class="rows">
      <tbody>
        <tr><td class="text-quiet">Type</td><td>{type}</td></tr>
        <tr><td class="text-quiet">Account</td><td>{account}</td></tr>
        <tr><td class="text-quiet">Region</td><td>{region}</td></tr>
        <tr><td class="text-quiet">Provider’s id</td><td class="num break-all">{providerId}</td></tr>
        {#each Object.entries(tags) as [label, value] (label)}<tr
            ><td class="text-quiet">{label}</td><td>{value}</td></tr
          >{/each}
        <tr><td class="text-quiet">First seen</td><td><Moment at={firstSeenAt} now={live.now} /></td></tr>
        <tr><td class="text-quiet">Last seen</td><td><Moment at={lastSeenAt} now={live.now} /></td></tr>
      </tbody>
    </table>
    {#if exemplars.length > 0}
      <h3 class="mt-3 font-semibold">Behind its numbers</h3>
      <table class="rows" aria-label="Exemplars">
        <tbody>
          {#each exemplars as { at, labels, metric } (`${metric} ${at} ${JSON.stringify(labels)}`)}
            <tr>
              <td><Moment {at} now={live.now} /></td>
              <td
                >{metric}{#each Object.entries(labels) as [label, value] (label)}<span
                    class="text-quiet block text-[12px]">{label} <span class="num break-all">{value}</span></span
                  >{/each}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
    <p class="mt-3">
      <a class="link" href={withRange(`/resources/${resourceId}`)}>All of its metrics, alarms and events</a>
    </p>
    {#if mayEdit && type === 'machine'}
      <p class="mt-3 flex flex-wrap gap-2">
        <a class="btn" href={alarmOn(name, 'machine.processor.use')}>Alarm on its processor</a>
        <a class="btn" href={alarmOn(name, 'machine.memory.use')}>Alarm on its memory</a>
      </p>
    {/if}
  </Margin>
{:catch error}
  <Margin title="Not found" {onClose}
    ><p class="fault">{error instanceof Error ? error.message : String(error)}</p></Margin
  >
{/await}
