<script lang="ts">
  import type { UnusualMetric, UnusualThen } from '$lib/core/incident';
  import { minute, type Instant } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import { quantityText } from '$lib/core/units';
  import { callApi, wordsOf } from '../api';
  import Spark from '../chart/Spark.svelte';

  interface Props {
    incidentId: number;
    /** When it was raised: what was found does not depend on anything later than 20 minutes after it. */
    openedAt: Instant;
  }
  let { incidentId, openedAt }: Props = $props();
  const live = useLive();
  let found = $state.raw<UnusualThen | null>(null);
  let problem = $state('');
  /** While it is young, more is known every five minutes; after 20 nothing changes any more. */
  const age = $derived(Math.max(0, Math.min(4, Math.floor((live.now - openedAt) / (5 * minute)))));
  $effect(() => {
    const leave = new AbortController();
    const id = incidentId;
    void age;
    void callApi<UnusualThen>('GET', `/incidents/${id}/unusual`, { signal: leave.signal }).then((reply) => {
      if (reply.kind === 'answered') [found, problem] = [reply.answer, ''];
      if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    });
    return () => leave.abort();
  });
  const numbersOf = (values: UnusualMetric['values']): Float64Array =>
    Float64Array.from(values, (value) => value ?? NaN);
</script>

<section class="panel" aria-label="Most unusual then" aria-busy={found === null && problem === ''}>
  <header>
    <h2>Most unusual then</h2>
    <small
      >{found === null || found.compared === 0
        ? 'compared with the same hours before'
        : `of ${found.compared} series near it, compared with the same hours before`}</small
    >
  </header>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>
  {:else if found === null}<p class="text-quiet min-h-[132px] text-[13px]">Comparing with the 7 days before …</p>
  {:else}
    {#each found.unusual as one (`${one.metric} ${one.title} ${one.resource}`)}
      <p class="border-line flex items-center gap-3 border-b py-1 text-[13px] last:border-0">
        <span class="min-w-0 flex-1"
          ><b class="block truncate" title={one.metric}>{one.title}</b><a
            class="link block truncate text-[12px]"
            href="/resources/{one.resourceId}">{one.resource}</a
          ></span
        >
        {#if one.values.some((value) => value !== null)}<Spark
            values={numbersOf(one.values)}
            width={96}
            height={26}
          />{/if}
        <span
          class="w-[92px] shrink-0 text-right"
          title="{one.value === null ? 'no data' : quantityText(one.value, one.unit)}, usually {quantityText(
            one.usual,
            one.unit
          )}">{one.text}</span
        >
      </p>
    {:else}<p class="text-quiet text-[13px]">
        {#if found.compared > 0}Nothing near it was far from usual.{:else if found.tooYoung > 0}There is too little
          history to compare with: it takes a day or more.{:else}Nothing near it is measured besides.{/if}
      </p>{/each}
  {/if}
</section>
