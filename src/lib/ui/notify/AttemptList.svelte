<script lang="ts">
  import type { Duration, Instant } from '$lib/core/time';
  import Moment from '$lib/ui/time/Moment.svelte';

  interface Attempt {
    readonly at: Instant;
    readonly took: Duration;
    readonly request: string;
    readonly answer: string;
    readonly error: string | null;
  }
  interface Props {
    /** What each is called. */
    name: string;
    /** Tries to send one message, in order. */
    attempts: readonly Attempt[];
    now: Instant;
  }
  let { name, attempts, now }: Props = $props();
</script>

{#if attempts.length === 0}<p class="text-quiet text-[13px]" role="status">It is on its way.</p>{/if}
{#each attempts as { at, took, request, answer, error }, number (number)}
  <details class="text-[13px]">
    <summary class="cursor-pointer"
      >{name}: {#if error === null}<b class="text-ok">✓</b> taken{:else}<b class="text-major">! {error}</b>{/if}
      <span class="text-quiet">after {took} ms, <Moment {at} {now} /></span></summary
    >
    <div class="mb-1 grid gap-1 md:grid-cols-2">
      <pre class="num text-[12px] break-all whitespace-pre-wrap">{request === ''
          ? 'No connection came about.'
          : request}</pre>
      <pre class="num text-[12px] break-all whitespace-pre-wrap">{answer}</pre>
    </div>
  </details>
{/each}
