<script lang="ts">
  import type { PanelOf } from '$lib/core/board';
  import { duration, overlap, peopleDuration, type Instant, type Range } from '$lib/core/time';
  import SeverityHoist from '../../../alarm/SeverityHoist.svelte';
  import { useLive } from '../../../live/live.svelte';
  import Moment from '../../../time/Moment.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel, range }: { panel: PanelOf<'incidents'>; range: Range } = $props();
  const boardContext = useBoardContext();
  const live = useLive();
  const incidents = $derived(
    boardContext.things.incidents.filter(
      ({ service, openedAt, closedAt }) =>
        (panel.service === undefined || service === panel.service) &&
        (!panel.open || closedAt === null) &&
        overlap(range, { from: openedAt, to: (closedAt ?? Math.max(live.now, openedAt) + 1) as Instant }) !== null
    )
  );
</script>

<ul class="min-h-0 flex-1 overflow-y-auto">
  {#each incidents as { id, alarm, subject, severity, openedAt, closedAt } (id)}
    <li class="border-line border-b last:border-0">
      <a href={boardContext.href(`/incidents/${id}`)} class="flex items-center gap-3 py-1 no-underline">
        <SeverityHoist {severity} />
        <span class="min-w-0"
          ><b class="block truncate">{alarm}</b><span class="text-quiet text-[12px]">{subject}</span></span
        >
        <span class="text-quiet ml-auto shrink-0 text-right text-[12px]">
          {closedAt === null ? 'since' : 'from'}
          <Moment at={openedAt} now={live.now} /><br />
          {peopleDuration(duration(Math.max(0, (closedAt ?? live.now) - openedAt)))}{closedAt === null ? '' : ', clear'}
        </span>
      </a>
    </li>
  {:else}
    <li class="text-quiet text-[13px]">
      {panel.open ? 'Nothing is raised.' : 'Nothing was raised in the shown range.'}
    </li>
  {/each}
</ul>
