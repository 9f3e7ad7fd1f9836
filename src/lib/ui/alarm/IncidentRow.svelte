<script lang="ts">
  import { outcomeText, type Closing } from '$lib/core/incident';
  import type { Severity } from '$lib/core/alarm';
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import Moment from '../time/Moment.svelte';
  import { withRange } from '../time/shown';
  import SeverityHoist from './SeverityHoist.svelte';

  interface Props {
    incident: {
      id: number;
      alarm: string;
      subject: string;
      account: string;
      severity: Severity;
      openedAt: Instant;
      closedAt: Instant | null;
      judgedAfterwards?: boolean;
      acknowledgedBy?: string | null;
      shelvingId?: number | null;
      outcome?: Closing | null;
    };
    now: Instant;
  }
  let { incident, now }: Props = $props();
  const { id, alarm, subject, account, severity, openedAt, closedAt } = $derived(incident);
</script>

<tr>
  <td class="w-6 max-md:px-0!"
    ><SeverityHoist
      {severity}
      shelved={closedAt === null && (incident.shelvingId ?? null) !== null}
      acknowledged={closedAt === null && (incident.acknowledgedBy ?? null) !== null}
    /></td
  >
  <td class="font-semibold"><a class="hover:underline" href={withRange(`/incidents/${id}`)}>{alarm}</a></td>
  <td
    >{subject}{#if account !== ''}<span class="text-quiet max-md:hidden">, {account}</span>{/if}</td
  >
  <td class="text-quiet right whitespace-nowrap"
    >{closedAt === null ? 'since' : 'from'} <Moment at={openedAt} {now} /></td
  >
  <td class="right num whitespace-nowrap">{peopleDuration(duration(Math.max(0, (closedAt ?? now) - openedAt)))}</td>
  <td class="right whitespace-nowrap max-md:hidden"
    >{closedAt === null && incident.acknowledgedBy
      ? `with ${incident.acknowledgedBy}`
      : closedAt === null
        ? (incident.shelvingId ?? null) === null
          ? 'raised'
          : 'shelved'
        : incident.outcome
          ? outcomeText({ ...incident.outcome, text: incident.outcome.outcome === 'other' ? 'closed' : '' })
          : incident.judgedAfterwards
            ? 'judged afterwards'
            : 'clear'}</td
  >
</tr>
