<script lang="ts">
  import { aboutMoney, costSearch, dateOf, dayWords, timesWords, type DayNumber } from '$lib/core/cost';
  import { duration, spokenDuration, type Instant } from '$lib/core/time';
  import { withRange } from '../time/shown';

  interface Change {
    readonly item: {
      readonly resource: string | null;
      readonly resourceName: string;
      readonly usage: string;
      readonly account: string;
    };
    readonly day: DayNumber;
    readonly before: number;
    readonly after: number;
    readonly marks: readonly { readonly text: string }[];
  }
  interface Idle {
    readonly resourceId: number;
    readonly name: string;
    readonly words: string;
    readonly since: Instant;
    readonly isAtLeast: boolean;
    readonly cost: number;
  }
  interface Props {
    findings: { changes: readonly Change[]; idle: readonly Idle[]; items: number; lookedAt: number };
    currency: string;
    now: Instant;
  }
  let { findings, currency, now }: Props = $props();
  const day = 86_400_000;
  const hrefOf = ({ item: { account, resource } }: Change): string =>
    `/cost?${costSearch({
      ...{ month: null, by: 'usage', basis: 'amortised' },
      filters: [{ by: 'resource', values: [resource === null ? '' : `${account}\n${resource}`] }]
    })}`;
</script>

<header>
  <h2>What changed</h2>
  <small>more than its own noise</small>
</header>
<ul class="text-[13px]">
  {#each findings.changes as change (`${change.item.account} ${change.item.resource} ${change.item.usage}`)}
    <li class="border-line border-b py-1.5" data-change={change.item.resourceName}>
      <a class="hover:underline" href={hrefOf(change)}
        ><b>{change.item.resourceName || 'No resource'}</b>, {change.item.usage}</a
      >
      <span class="text-quiet block text-[12px]"
        >{aboutMoney(change.before, currency)} to {aboutMoney(change.after, currency)} a day since {dayWords(
          dateOf(change.day)
        )}{change.before > 0 ? `: ${timesWords(change.after, change.before)}` : ''}</span
      >
      {#each change.marks.slice(0, 2) as { text }, index (index)}<span class="text-note block text-[12px]"
          >⚑ {text}</span
        >{/each}
    </li>
  {:else}
    <li class="text-quiet py-1.5">Nothing changed its level in 30 days.</li>
  {/each}
</ul>
{#if findings.lookedAt < findings.items}
  <p class="text-quiet mt-1 text-[12px]">
    {findings.lookedAt} of {findings.items} resources and usages were looked at: those whose cost moved most.
  </p>
{/if}
{#if findings.idle.length > 0}
  <header class="mt-2">
    <h2>Idle</h2>
    <small>costs money and does nothing</small>
  </header>
  <ul class="text-[13px]">
    {#each findings.idle as { resourceId, name, words, since, isAtLeast, cost } (resourceId)}
      <li class="border-line border-b py-1.5 last:border-b-0" data-idle={name}>
        <a class="hover:underline" href={withRange(`/resources/${resourceId}`)}
          ><b>{name}</b> has been idle for {isAtLeast ? 'at least ' : ''}{spokenDuration(
            duration(Math.max(1, Math.floor((now - since) / day)) * day)
          )}</a
        >
        <span class="text-quiet block text-[12px]">{words}, {aboutMoney(cost, currency)} in 30 days</span>
      </li>
    {/each}
  </ul>
{/if}
