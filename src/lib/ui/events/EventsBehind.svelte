<script lang="ts">
  import { ruleSentence, type EventRule, type OutsideEvent } from '$lib/core/events';
  import type { Instant } from '$lib/core/time';
  import LineText from '../logs/LineText.svelte';
  import Moment from '../time/Moment.svelte';
  import { withRange } from '../time/shown';

  interface Props {
    /** The rule; null where it cannot be read. */
    rule: {
      readonly rule: EventRule | null;
      readonly events: readonly (OutsideEvent & { readonly effect: 'raises' | 'again' | 'clears' })[];
    };
    now: Instant;
  }
  let { rule, now }: Props = $props();
  const effects = { raises: 'raised it', again: 'once more', clears: 'cleared it' };
</script>

<section class="panel" aria-label="Its events">
  <header>
    <h2>Its events</h2>
    {#if rule.rule !== null}<small>{ruleSentence(rule.rule)}</small>{/if}
  </header>
  <table class="rows">
    <thead><tr><th>Time</th><th>Type</th><th>What it says</th><th>From</th><th></th></tr></thead>
    <tbody>
      {#each rule.events as { accountId, id, at, type, text, source, effect } (`${accountId}.${id}`)}
        <tr data-effect={effect}>
          <td class="whitespace-nowrap"><Moment {at} {now} /></td>
          <td class="whitespace-nowrap">{type}</td>
          <td
            ><a class="link" href={withRange(`/events?event=${accountId}.${id}`)}><LineText {text} most={300} /></a></td
          >
          <td class="text-quiet whitespace-nowrap">{source}</td>
          <td class="whitespace-nowrap">{effects[effect]}</td>
        </tr>
      {:else}<tr><td colspan="5" class="text-quiet">Its events are older than events are stored.</td></tr>{/each}
    </tbody>
  </table>
</section>
