<script lang="ts">
  import type { Severity } from '$lib/core/alarm';
  import type { Instant } from '$lib/core/time';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';
  import { withRange } from '../time/shown';

  interface Props {
    incidents: readonly {
      readonly id: number;
      readonly alarm: string;
      readonly subject: string;
      readonly severity: Severity;
      readonly openedAt: Instant;
    }[];
  }
  let { incidents }: Props = $props();
  const live = useLive();
</script>

{#if incidents.length > 0}
  <ul class="mb-2.5 text-[13.5px]" aria-label="Raised now">
    {#each incidents as { id, alarm, subject, severity, openedAt } (id)}
      <li class="flex items-center gap-2">
        <SeverityHoist {severity} />
        <a class="link font-semibold" href={withRange(`/incidents/${id}`)}>{alarm}</a>
        <span>{subject}</span>
        <span class="text-quiet">since <Moment at={openedAt} now={live.now} /></span>
      </li>
    {/each}
  </ul>
{/if}
