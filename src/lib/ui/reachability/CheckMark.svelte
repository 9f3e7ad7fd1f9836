<script lang="ts">
  import Circle from '@lucide/svelte/icons/circle';
  import CircleDashed from '@lucide/svelte/icons/circle-dashed';
  import CircleX from '@lucide/svelte/icons/circle-x';
  import type { CheckState } from '$lib/core/reachability';

  /** How a check stands; null for one that is off. */
  let { state }: { state: CheckState | null } = $props();
  const words = { up: 'up', down: 'down', unknown: 'not known yet' };
</script>

<span class="inline-flex items-center gap-1.5 whitespace-nowrap">
  {#if state === 'up'}<Circle size={13} class="text-ok" strokeWidth={3} aria-hidden="true" />
  {:else if state === 'down'}<CircleX size={14} color="var(--critical)" strokeWidth={2.5} aria-hidden="true" />
  {:else}<CircleDashed size={13} class="text-quiet" strokeWidth={2.5} aria-hidden="true" />{/if}
  <span class={state === 'down' ? 'fault font-semibold' : ''}>{state === null ? 'off' : words[state]}</span>
</span>
