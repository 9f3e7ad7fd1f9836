<script lang="ts">
  import { callApi, answerOrNull } from '../api';
  import { untrack } from 'svelte';
  import { enhance } from '$app/forms';
  import { planIntervals, planSchema, type CollectionPlan } from '$lib/core/intake';
  import { serviceByKey } from '$lib/core/services';
  import { durationFromText, spokenDuration } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import { countOf } from '$lib/core/words/count';
  import type { ArrivingLines } from './arriving-lines';
  import LinesArrived from './LinesArrived.svelte';
  import LinesPlan from './LinesPlan.svelte';
  import ChangedElsewhere from '../forms/ChangedElsewhere.svelte';
  import { Elsewhere } from '../forms/elsewhere.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    accountId: number;
    account: string;
    service: {
      service: string;
      found: number;
      guestOff: number;
      refused: string | null;
      plan: CollectionPlan;
      changedBy: string | null;
      metrics: readonly { name: string; title: string }[];
      estimate: { samples: number; requests: number; price: number; bytes: number };
      price: number;
      actual: { points: number; requests: number } | null;
      collection: { lastError: { remedy: string } | null } | null;
    };
    /** How its lines arrive; null where there are none. */
    lineCoverage: ArrivingLines | null;
    /** What lines cost at the provider: requests for one reading of what writes some, and the price of a gigabyte. */
    lineCost: { requestsPerFeed: number; perGigabyte: number };
  }
  let { accountId, account, service, lineCoverage, lineCost }: Props = $props();
  const { mayEdit, mayAdminister } = useReader();
  let plan = $state(untrack(() => structuredClone<CollectionPlan>(service.plan)));
  const elsewhere = new Elsewhere<CollectionPlan>({
    stored: () => service.plan,
    mine: () => plan,
    take: (stored) => (plan = structuredClone($state.snapshot<CollectionPlan>(stored)))
  });
  const things = $derived(serviceByKey(service.service));
  const problem = $derived(planSchema.safeParse(plan).error?.issues[0]?.message ?? null);
  const changed = $derived(JSON.stringify(plan) !== JSON.stringify(service.plan));
  const keepKeys = ['sampleDays', 'fiveMinuteDays', 'hourDays', 'eventDays', 'incidentDays', 'lineDays'] as const;
  const lines = (text: string) => text.split(/[\s,]+/).filter(Boolean);
  const number = (value: number) => Math.round(value).toLocaleString('en');

  const shorter = $derived(keepKeys.some((key) => plan.keep[key] < service.plan.keep[key]));
  /** Not while somebody is still typing. */
  const askAfterMs = 250;
  interface Removal {
    readonly points: number;
    readonly bytes: number;
    readonly events: number;
    readonly incidents: number;
    readonly lines: number;
    readonly lineBytes: number;
  }
  let wouldGo = $state<Removal | 'unknown' | null>(null);
  const removedWords = ({ points, bytes, events, incidents, lines: gone, lineBytes }: Removal): string =>
    [
      ...(points > 0 ? [`${countOf(points, 'point')} (${quantityText(bytes, 'By')})`] : []),
      ...(gone > 0 ? [`${countOf(gone, 'line')} (${quantityText(lineBytes, 'By')})`] : []),
      ...(events > 0 ? [countOf(events, 'event')] : []),
      ...(incidents > 0 ? [countOf(incidents, 'incident')] : [])
    ].join(', ');
  // What a shorter time would remove is shown before it is saved; the newest question counts.
  $effect(() => {
    wouldGo = null;
    if (!shorter || problem !== null) return;
    const request = new AbortController();
    const query = {
      service: service.service,
      ...Object.fromEntries(keepKeys.map((key) => [key, String(plan.keep[key])]))
    };
    const timer = setTimeout(() => {
      void callApi<Removal>('GET', `/accounts/${accountId}/retention`, {
        query,
        signal: request.signal
      }).then((reply) => {
        if (reply.kind !== 'cancelled') wouldGo = answerOrNull(reply) ?? 'unknown';
      });
    }, askAfterMs);
    return () => {
      clearTimeout(timer);
      request.abort();
    };
  });

  /** What the plan as it stands in the form would come to; what is stored until it is known. */
  let tried = $state<{ samples: number; requests: number; price: number; bytes: number } | null>(null);
  const estimate = $derived(changed ? (tried ?? service.estimate) : service.estimate);
  $effect(() => {
    if (!changed || problem !== null) {
      tried = null;
      return;
    }
    const request = new AbortController();
    const body = { service: service.service, plan: $state.snapshot(plan) };
    const timer = setTimeout(() => {
      void callApi<NonNullable<typeof tried>>('POST', `/accounts/${accountId}/estimate`, {
        body,
        signal: request.signal
      }).then((reply) => {
        tried = answerOrNull(reply) ?? tried; // else the estimate stays as it was; saving says what is wrong
      });
    }, askAfterMs);
    return () => {
      clearTimeout(timer);
      request.abort();
    };
  });

  function chooseMetrics(kind: string): void {
    if (kind === 'list') plan.metrics = { kind, names: service.metrics.map(({ name }) => name) };
    else if (kind === 'patterns') plan.metrics = { kind, patterns: ['*'] };
    else plan.metrics = { kind: kind as 'all' | 'recommended' };
  }
  function readTags(text: string): void {
    plan.leaveOut.tags = lines(text).map((pair) => {
      const [key = '', value = '*'] = pair.split('=');
      return { key, value: value || '*' };
    });
  }
</script>

{#snippet days(of: keyof CollectionPlan['keep'], name: string, most: number)}
  <input
    class="part w-[7ch] text-right"
    type="number"
    min="1"
    max={most}
    disabled={!mayAdminister}
    title={mayAdminister ? undefined : 'Only administrators change retention'}
    aria-label={name}
    bind:value={plan.keep[of]}
  />
{/snippet}

<section class="panel" aria-label="Collection plan">
  <header>
    <h2>Collection plan</h2>
    <small>for {things.several} of {account}</small>
  </header>
  {#if service.refused !== null}
    <p class="mb-2 text-[13px]" role="alert">
      <b class="fault">! {service.refused}</b>
      {service.collection?.lastError?.remedy ?? ''} Nothing is lost: what the provider still has is fetched once it may be
      read.
    </p>
  {/if}
  {#if lineCoverage?.lastError}
    <p class="mb-2 text-[13px]" role="alert" data-testid="lines-error">
      <b class="fault">! Lines: {lineCoverage.lastError.message}</b>
      {lineCoverage.lastError.remedy}
    </p>
  {/if}
  {#if elsewhere.theirs !== null && mayEdit}<ChangedElsewhere
      what="this plan"
      by={service.changedBy ?? ''}
      onTheirs={() => elsewhere.takeTheirs()}
      onMine={() => elsewhere.keepMine()}
    />{/if}
  <form
    method="post"
    action="?/plan"
    use:enhance={() =>
      async ({ update }) =>
        update({ reset: false })}
  >
    <input type="hidden" name="service" value={service.service} />
    <input type="hidden" name="plan" value={JSON.stringify(plan)} />
    <fieldset class="sentence text-[15px]!" disabled={!mayEdit}>
      Collect
      <select
        class="part"
        aria-label="Metrics"
        value={plan.metrics.kind}
        onchange={(event) => chooseMetrics(event.currentTarget.value)}
      >
        <option value="recommended">the recommended metrics</option><option value="all">every metric</option><option
          value="list">chosen metrics</option
        ><option value="patterns">metrics like</option>
      </select>
      {#if plan.metrics.kind === 'patterns'}
        <input
          class="part w-[20ch]"
          aria-label="Patterns of metrics"
          value={plan.metrics.patterns.join(' ')}
          oninput={(event) => (plan.metrics = { kind: 'patterns', patterns: lines(event.currentTarget.value) })}
        />
      {:else if plan.metrics.kind === 'list'}
        <select class="part align-top" multiple size="4" aria-label="Chosen metrics" bind:value={plan.metrics.names}>
          {#each service.metrics as { name, title } (name)}<option value={name}>{title}</option>{/each}
        </select>
      {/if}
      of
      <select class="part" aria-label="Resources" bind:value={plan.collect}>
        <option value="all">all {service.found} {things.several}, and those that appear later</option>
        <option value="chosen">the chosen {things.several}</option>
        <option value="nothing">none of the {things.several}</option>
      </select>, every
      <select class="part" aria-label="Interval" bind:value={plan.every}>
        {#each planIntervals as interval (interval)}<option value={interval}
            >{spokenDuration(durationFromText(interval)).replace(/^1 /, '')}</option
          >{/each}
      </select>, leaving out names like
      <input
        class="part w-[12ch]"
        aria-label="Names left out"
        placeholder="none"
        value={plan.leaveOut.names.join(' ')}
        oninput={(event) => (plan.leaveOut.names = lines(event.currentTarget.value))}
      />, tags
      <input
        class="part w-[14ch]"
        aria-label="Tags left out"
        placeholder="none"
        value={plan.leaveOut.tags.map(({ key, value }) => `${key}=${value}`).join(' ')}
        oninput={(event) => readTags(event.currentTarget.value)}
      />{#if service.service === 'clusters'}, namespaces <input
          class="part w-[12ch]"
          aria-label="Namespaces left out"
          placeholder="none"
          value={plan.leaveOut.namespaces.join(' ')}
          oninput={(event) => (plan.leaveOut.namespaces = lines(event.currentTarget.value))}
        />{/if}. Store every sample {@render days('sampleDays', 'Days of samples', 800)}
      days, 5-minute summaries {@render days('fiveMinuteDays', 'Days of 5-minute summaries', 3660)}
      days, hours {@render days('hourDays', 'Days of hours', 3660)} days, events {@render days(
        'eventDays',
        'Days of events',
        3660
      )}
      days, and incidents {@render days('incidentDays', 'Days of incidents', 3660)} days.
      {#if lineCoverage !== null}<LinesPlan bind:plan {days} />{/if}
    </fieldset>
    <div class="mt-1 flex flex-wrap items-center gap-3">
      <p class="text-[13px]" data-testid="estimate">
        About <b class="num">{number(estimate.samples)}</b> samples and
        <b class="num">{number(estimate.requests)}</b>
        requests a day (<b class="num">{estimate.price.toFixed(2)}</b> a day),
        <b class="num">{quantityText(estimate.bytes, 'By')}</b>
        of disk a day.
        {#if service.actual}<span class="text-quiet"
            >In the last day it was {number(service.actual.points)} samples and {number(service.actual.requests)} requests.</span
          >
        {:else}<span class="text-quiet">After a whole day it is compared with what really came.</span>{/if}
        {#if lineCoverage !== null}<LinesArrived
            {plan}
            coverage={lineCoverage}
            prices={{ ...lineCost, perThousandRequests: service.price }}
          />{/if}
        {#if wouldGo === 'unknown'}<span class="fault block" role="status"
            >! What this would remove could not be found out.</span
          >{:else if wouldGo !== null && removedWords(wouldGo) !== ''}<b
            class="fault block"
            role="status"
            data-testid="would-go">! Within a day, this retention removes {removedWords(wouldGo)}.</b
          >{/if}
      </p>
      {#if mayEdit}
        <span class="ml-auto flex items-center gap-2">
          {#if problem && changed}<span class="fault text-[13px]" role="alert">{problem}</span>{/if}
          <button class={['btn', changed && 'btn-main']} disabled={!changed || problem !== null}>Save plan</button>
        </span>
      {/if}
    </div>
  </form>
  {#if mayEdit}
    <div class="border-line mt-2 flex flex-wrap items-center gap-4 border-t pt-2 text-[13px]">
      {#if mayAdminister}<form
          method="post"
          action="?/price"
          class="flex items-center gap-1.5"
          use:enhance={() =>
            async ({ update }) =>
              update({ reset: false })}
        >
          <label
            >A thousand requests cost <input
              class="field num inline! w-[9ch]! py-0.5!"
              name="price"
              type="number"
              min="0"
              step="any"
              value={service.price}
            /></label
          >
          <button class="btn">Save</button>
        </form>{/if}
      {#if service.guestOff > 0 && mayAdminister}
        <form method="post" action="?/guests" class="flex items-center gap-2" use:enhance>
          <input type="hidden" name="service" value={service.service} />
          <span>Guest-level metrics are off on {service.guestOff}.</span><button class="btn"
            >Switch them on there</button
          >
        </form>
      {/if}
    </div>
  {/if}
</section>
