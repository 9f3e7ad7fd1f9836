import { failedNights, replicationStall } from '../world/troubles';
import { tenant } from './world';

/** Something that happened to a thing, as Ostro tells it. */
export interface OstroEvent {
  readonly id: string;
  readonly at: string;
  readonly uri: string;
  readonly kind: string;
  readonly text: string;
}

/** What has happened by a moment, oldest first: a pure function of the start. */
export function events(start: number, now: number): readonly OstroEvent[] {
  const stall = replicationStall(start);
  const eventOf = (at: number, uri: string, kind: string, text: string) => ({ at, uri, kind, text });
  return [
    eventOf(
      stall.from + 4 * 60_000,
      'sub-sea/replication/dorsale-standby',
      'stalled',
      'Replication stalled: the copy no longer follows its source.'
    ),
    eventOf(
      stall.until,
      'sub-sea/replication/dorsale-standby',
      'resumed',
      'Replication was set going again by an operator.'
    ),
    ...failedNights(start).map((night) =>
      eventOf(
        night + 5 * 60_000,
        'sub-shore/pipeline/nightly-tariff-load',
        'run failed',
        'The run failed: source timed out (212 times).'
      )
    )
  ]
    .filter(({ at }) => at <= now)
    .sort((a, b) => a.at - b.at)
    .map(({ at, ...rest }) => ({ id: `${tenant}-${at}`, at: new Date(at).toISOString(), ...rest }));
}
