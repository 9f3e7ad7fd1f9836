<script lang="ts">
  import type { PanelOf } from '$lib/core/board';
  import SeverityHoist from '../../../alarm/SeverityHoist.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel }: { panel: PanelOf<'alarms'> } = $props();
  const boardContext = useBoardContext();
  const alarms = $derived(
    boardContext.things.alarms
      .filter(({ service }) => panel.service === undefined || service === panel.service)
      .sort((a, b) => (b.counts.raised ?? 0) - (a.counts.raised ?? 0) || a.name.localeCompare(b.name))
  );
  const words = ({ counts, error }: (typeof alarms)[number]) =>
    error !== null
      ? 'cannot be judged'
      : (['raised', 'indeterminate', 'clear'] as const)
          .flatMap((state) => (counts[state] ? [`${counts[state]} ${state}`] : []))
          .join(', ') || 'watches nothing yet';
</script>

<ul class="min-h-0 flex-1 overflow-y-auto text-[13.5px]">
  {#each alarms as alarm (alarm.id)}
    <li class="border-line border-b last:border-0">
      <a class="flex items-center gap-2 py-1 no-underline" href={boardContext.href(`/alarms/${alarm.id}`)}>
        <SeverityHoist severity={alarm.counts.raised ? alarm.severity : null} />
        <span class="truncate">{alarm.name}</span>
        <span class="text-quiet ml-auto text-[12px] whitespace-nowrap">{words(alarm)}</span>
      </a>
    </li>
  {:else}
    <li class="text-quiet text-[13px]">
      No alarm watches {panel.service === undefined ? 'anything' : 'this service'} yet.
    </li>
  {/each}
</ul>
