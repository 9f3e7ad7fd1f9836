<script lang="ts">
  import { planEvery, type CollectionPlan } from '$lib/core/intake';
  import { day } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';
  import type { ArrivingLines } from './arriving-lines';

  interface Props {
    plan: CollectionPlan;
    coverage: Omit<ArrivingLines, 'lastError'>;
    prices: { requestsPerFeed: number; perGigabyte: number; perThousandRequests: number };
  }
  let { plan, coverage, prices }: Props = $props();
  const live = useLive();
  const number = (value: number) => Math.round(value).toLocaleString('en');
  const requests = $derived(plan.lines.collect ? (coverage.feeds * prices.requestsPerFeed * day) / planEvery(plan) : 0);
  const bytesPrice = $derived((coverage.bytes / 1e9) * prices.perGigabyte);
  const isFetching = $derived(
    plan.lines.collect && coverage.historyTo !== null && coverage.historyTo > coverage.historyFrom
  );
</script>

<span class="block" data-testid="lines-arrived">
  {#if coverage.lines + coverage.leftOut + coverage.refused > 0}
    In the last day <b class="num">{number(coverage.lines)}</b> lines arrived,
    <b class="num">{quantityText(coverage.bytes, 'By')}</b>{#if bytesPrice > 0}, for
      <b class="num">{bytesPrice.toFixed(2)}</b>{/if}; {number(coverage.leftOut)} were left out by the plan{coverage.refused >
    0
      ? `, ${number(coverage.refused)} could not be taken`
      : ''}.
  {/if}
  {#if requests > 0}
    Reading lines takes about <b class="num">{number(requests)}</b> requests a day (<b class="num"
      >{((requests / 1000) * prices.perThousandRequests).toFixed(2)}</b
    >).
  {/if}
  {#if isFetching && coverage.historyTo !== null}
    <span role="status"
      >They are here back to <Moment at={coverage.historyTo} now={live.now} />; those before are being fetched.</span
    >
  {/if}
</span>
