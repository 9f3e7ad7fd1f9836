<script lang="ts">
  import { ruleSentence, type EventRule } from '$lib/core/events';

  interface Props {
    rules: readonly { readonly id: number; readonly rule: EventRule }[];
  }
  let { rules }: Props = $props();
</script>

<section class="panel" aria-label="Event rules">
  <header>
    <h2>Event rules</h2>
    <small>{rules.length === 0 ? 'none yet' : rules.length}</small>
  </header>
  {#each rules as { id, rule } (id)}
    <p class="border-line border-b py-1 text-[13px] last:border-0">
      <a class="link font-semibold" href="/event-rules/{id}">{rule.name}</a>
      {#if !rule.enabled}<span class="text-quiet">is off</span>{/if}
      <span class="text-quiet block">{ruleSentence(rule)}</span>
    </p>
  {:else}
    <p class="text-[13px]">
      A rule raises an incident when an event arrives, and clears it by another event, after a time, or when somebody
      closes it.
    </p>
  {/each}
</section>
