<script lang="ts">
  import type { Severity } from '$lib/core/alarm';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';
  import { withRange } from '../time/shown';

  interface Props {
    incidents: readonly {
      id: number;
      alarm: string;
      subject: string;
      severity: Severity;
      openedAt: Instant;
      closedAt: Instant | null;
    }[];
    title?: string;
  }
  let { incidents, title = 'Raised here' }: Props = $props();
  const live = useLive();
</script>

<section class="panel min-h-[128px]" aria-label={title}>
  <header>
    <h2>{title}</h2>
    <small>in the shown range</small>
  </header>
  {#each incidents.slice(0, 4) as { id, alarm, subject, severity, openedAt, closedAt } (id)}
    <a
      href={withRange(`/incidents/${id}`)}
      class="border-line flex items-center gap-3 border-b py-1.5 no-underline last:border-0"
    >
      <SeverityHoist {severity} />
      <span class="min-w-0"
        ><b class="block truncate">{alarm}</b><span class="text-quiet text-[12px]">{subject}</span></span
      >
      <span class="text-quiet ml-auto text-right text-[12px]">
        {closedAt === null ? 'since' : 'from'}
        <Moment at={openedAt} now={live.now} /><br />
        {peopleDuration(duration(Math.max(0, (closedAt ?? live.now) - openedAt)))}{closedAt === null ? '' : ', clear'}
      </span>
    </a>
  {:else}
    <p class="text-quiet text-[13px]">Nothing was raised.</p>
  {/each}
  {#if incidents.length > 4}<a class="link text-[12px]" href={withRange('/incidents')}
      >and {incidents.length - 4} more</a
    >{/if}
</section>
