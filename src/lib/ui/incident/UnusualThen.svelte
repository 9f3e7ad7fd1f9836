<script lang="ts">
  import type { Instant } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import { callApi, wordsOf } from '../api';
  import Spark from '../chart/Spark.svelte';

  interface Found {
    readonly compared: number;
    readonly tooYoung: number;
    readonly unusual: readonly {
      readonly metric: string;
      readonly title: string;
      readonly unit: string;
      readonly resource: string;
      readonly resourceId: number;
      readonly text: string;
      readonly usual: number;
      readonly value: number;
      readonly values: readonly (number | null)[];
    }[];
  }
  interface Props {
    incidentId: number;
    /** When it was raised: what was found does not depend on anything later than 20 minutes after it. */
    openedAt: Instant;
  }
  let { incidentId, openedAt }: Props = $props();
  let found = $state.raw<Found | null>(null);
  let problem = $state('');
  $effect(() => {
    const leave = new AbortController();
    const id = incidentId;
    void openedAt;
    found = null;
    problem = '';
    void callApi<Found>('GET', `/incidents/${id}/unusual`, { signal: leave.signal }).then((reply) => {
      if (reply.kind === 'answered') found = reply.answer;
      if (reply.kind === 'refused') problem = wordsOf(reply.problem);
    });
    return () => leave.abort();
  });
  const numbersOf = (values: Found['unusual'][number]['values']): Float64Array =>
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
        <Spark values={numbersOf(one.values)} width={96} height={26} />
        <span
          class="w-[92px] shrink-0 text-right"
          title="{quantityText(one.value, one.unit)}, usually {quantityText(one.usual, one.unit)}">{one.text}</span
        >
      </p>
    {:else}<p class="text-quiet text-[13px]">
        {#if found.compared > 0}Nothing near it was far from usual.{:else if found.tooYoung > 0}There is too little
          history to compare with: it takes a day or more.{:else}Nothing near it is measured besides.{/if}
      </p>{/each}
  {/if}
</section>
