<script lang="ts">
  import { textFromInstant, type Instant } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import { answerOrNull, callApi } from '../api';
  import Spark from '../chart/Spark.svelte';
  import { withRange } from '../time/shown';

  interface Props {
    resourceId: number;
    resource: string;
    at: Instant;
  }
  let { resourceId, resource, at }: Props = $props();
  interface Metric {
    readonly metric: string;
    readonly title: string;
    readonly unit: string;
    readonly values: readonly (number | null)[];
    readonly value: number | null;
  }
  let metrics = $state.raw<readonly Metric[]>([]);
  $effect(() => {
    const end = new AbortController();
    void callApi<{ metrics: Metric[] }>('GET', `/resources/${resourceId}/then`, {
      query: { at: textFromInstant(at) },
      signal: end.signal
    }).then((reply) => {
      if (reply.kind !== 'cancelled') metrics = answerOrNull(reply)?.metrics ?? [];
    });
    return () => end.abort();
  });
  const numbersOf = (values: Metric['values']): Float64Array => Float64Array.from(values, (value) => value ?? NaN);
</script>

{#if metrics.length > 0}
  <h3 class="mt-3 mb-1 text-[13px] font-semibold">
    <a class="link" href={withRange(`/resources/${resourceId}`)}>{resource}</a> then
  </h3>
  <ul class="text-[12.5px]" aria-label="Metrics of {resource} then">
    {#each metrics as { metric, title, unit, values, value } (metric)}
      <li class="flex items-center gap-2 py-0.5">
        <span class="min-w-0 flex-1 truncate" title="45 min before it to 15 min after it">{title}</span>
        <Spark values={numbersOf(values)} width={96} height={22} />
        <span class="num w-[72px] shrink-0 text-right">{value === null ? 'no data' : quantityText(value, unit)}</span>
      </li>
    {/each}
  </ul>
{/if}
