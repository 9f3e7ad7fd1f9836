<script lang="ts">
  import type { PanelOf } from '$lib/core/board';
  import { useLive } from '../../../live/live.svelte';
  import Moment from '../../../time/Moment.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel }: { panel: PanelOf<'silent'> } = $props();
  const boardContext = useBoardContext();
  const live = useLive();
  const silent = $derived(
    boardContext.things.reporting
      .filter(
        ({ service, dueBy }) =>
          (panel.service === undefined || service === panel.service) &&
          dueBy !== null &&
          live.now - dueBy > panel.minutes * 60_000
      )
      .sort((a, b) => (b.newest ?? 0) - (a.newest ?? 0))
  );
</script>

<ul class="min-h-0 flex-1 overflow-y-auto text-[13.5px]">
  {#each silent as { id, name, account, newest } (id)}
    <li class="border-line flex items-center gap-2 border-b py-1 last:border-0">
      <svg width="12" height="12" class="shrink-0" aria-hidden="true"
        ><circle
          cx="6"
          cy="6"
          r="4.5"
          fill="none"
          stroke="currentColor"
          stroke-width="1.5"
          stroke-dasharray="2 2"
        /></svg
      >
      <button class="link truncate" onclick={() => boardContext.open(id)}>{name}</button>
      <span class="text-quiet truncate text-[12px]">{account}</span>
      <span class="text-quiet ml-auto text-[12px] whitespace-nowrap"
        >silent since <Moment at={newest ?? live.now} now={live.now} /></span
      >
    </li>
  {:else}
    <li class="text-quiet text-[13px]">
      Every resource reports as often as it should; none is more than {panel.minutes} min overdue.
    </li>
  {/each}
</ul>
