<script lang="ts">
  import { isFailure, runText, type Run } from '$lib/core/response';
  import type { Instant } from '$lib/core/time';
  import { withRange } from '../time/shown';
  import Moment from '../time/Moment.svelte';

  interface Props {
    /** The newest first. */
    runs: readonly (Run & {
      readonly id: number;
      readonly resource: string;
      readonly resourceId: number | null;
      readonly incidentId: number | null;
      readonly by: string;
    })[];
    /** Names of channels, by their ids. */
    channels: Readonly<Record<number, string>>;
    now: Instant;
    /** What is said when there are none. */
    none: string;
  }
  let { runs, channels, now, none }: Props = $props();
</script>

<ul class="text-[13px]">
  {#each runs as run (run.id)}
    <li class="border-line flex flex-wrap items-baseline gap-x-3 border-b py-1 last:border-0" data-run={run.state}>
      <span class="w-[92px] shrink-0"><Moment at={run.sentAt ?? run.createdAt} {now} /></span>
      <span class={['min-w-0 flex-1 break-words', isFailure(run) && 'fault']}
        >{#if run.resource !== ''}{#if run.resourceId !== null}<a
              class="link"
              href={withRange(`/resources/${run.resourceId}`)}>{run.resource}</a
            >{:else}{run.resource}{/if}{/if}{run.resource === '' ? '' : ': '}{runText(
          run,
          (id) => channels[id] ?? `channel ${id}`
        )}</span
      >
      <span class="text-quiet"
        >{run.by}{#if run.incidentId !== null}, <a class="link" href={withRange(`/incidents/${run.incidentId}`)}
            >incident</a
          >{/if}</span
      >
    </li>
  {:else}<li class="text-quiet">{none}</li>{/each}
</ul>
