<script lang="ts">
  import { linesSearch } from '$lib/core/clusters';
  import { after, before, minute, textFromInstant, times, type Instant } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';
  import { withRange } from '../time/shown';

  interface Props {
    restarts: readonly {
      readonly at: Instant;
      readonly copy: string;
      readonly workload: string;
      readonly text: string;
    }[];
    account: string;
    workloadIds: Readonly<Record<string, number>>;
    /** Whether all are of one container. */
    ofOne?: boolean;
  }
  let { restarts, account, workloadIds, ofOne = false }: Props = $props();
  const live = useLive();

  /** The lines of a container around its end: what it wrote, and what its node said of it. */
  function linesHref(copy: string, at: Instant): string {
    const search = linesSearch(account, { kind: 'container', copy });
    const [from, to] = [before(at, times(10, minute)), after(at, times(2, minute))];
    return `/logs?${new URLSearchParams({ q: search, from: textFromInstant(from), to: textFromInstant(to) })}`;
  }
</script>

<section class="panel" aria-label="Restarts">
  <header>
    <h2>Restarts</h2>
    <small>of the last 14 days, newest first</small>
  </header>
  <ul class="max-h-[230px] overflow-y-auto text-[13px]">
    {#each restarts as { at, copy, workload, text } (`${copy} ${at}`)}
      {@const id = workloadIds[workload]}
      <li class="border-line flex flex-wrap items-baseline gap-x-2 border-b py-1 last:border-0" data-restart={copy}>
        <Moment {at} now={live.now} />
        {#if !ofOne && id !== undefined}<a
            class="link font-semibold"
            href={withRange(`/clusters/${id}/${encodeURIComponent(copy)}`)}>{copy}</a
          >{/if}
        <span class="min-w-0 flex-1">{text}</span>
        <a class="link whitespace-nowrap" href={linesHref(copy, at)}>Lines then</a>
      </li>
    {:else}<li class="text-quiet">Nothing was restarted.</li>{/each}
  </ul>
</section>
