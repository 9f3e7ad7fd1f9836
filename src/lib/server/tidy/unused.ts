import { targetsOf } from '$lib/core/notify/route';
import { signalsOfAlarm } from '$lib/core/alarm';
import { signalsOf } from '$lib/core/board';
import { signalsOfObjective } from '$lib/core/objective';
import { asksFor, picksOf } from '$lib/core/signal';
import { before, day, times, type Instant } from '$lib/core/time';
import { allAlarms } from '../alarms/alarms';
import { listAlarms } from '../alarms/list';
import { allBoards } from '../boards/boards';
import { unopenedSince, type UnopenedBoard } from '../boards/opened';
import { expiredLinks } from '../boards/links';
import type { Queryable } from '../db/pool';
import { allKeys } from '../intake/receive/keys';
import { collectedMetrics } from '../inventory/collected-metrics';
import { allChannels } from '../notify/channels';
import { objectives } from '../objective/objectives';
import { allProfiles } from '../people/people';
import { allDerived } from '../query/derived/derived';
import { allSignals } from '../query/signals/signals';
import { allResponses } from '../responses/responses';
import { allPlans } from '../summary/plans';
import { allRoutes } from '../routing/routes';

/** Something with the reason why it is listed. */
export interface Unused {
  readonly id: number;
  readonly name: string;
  /** When it was last of use; null where that is not known, or never. */
  readonly at: Instant | null;
}

/** A metric that is collected and looked at by nothing. */
export interface UnseenMetric {
  readonly name: string;
  readonly title: string;
  readonly service: string;
  readonly series: number;
  /** Samples that come of it in a day, by how often its series are sampled. */
  readonly samplesADay: number;
}

/** What nobody uses. */
export interface UnusedThings {
  /** Channels that no route notifies, no response calls and no summary is sent to. */
  readonly channels: readonly Unused[];
  /** Alarms that raised nothing in 30 days, and those that are raised all the time. */
  readonly neverRaised: readonly Unused[];
  readonly alwaysRaised: readonly Unused[];
  /** Boards that nobody opened for 90 days. */
  readonly boards: readonly UnopenedBoard[];
  /** Keys that have run out, or were not used for 90 days. */
  readonly keys: readonly Unused[];
  /** Links of boards that expired; of a private board, its title is left out. */
  readonly links: readonly Unused[];
  /** People who may not sign in any more. */
  readonly people: readonly Unused[];
  /** The most expensive first. */
  readonly metrics: readonly UnseenMetric[];
}

/** For how long nothing must have been of use. */
export const unusedFor = times(90, day);
/** Metrics that are listed. */
const mostMetrics = 200;

/** Lists what nobody uses: what can be removed without anybody missing it. */
export async function unusedThings(db: Queryable, now: Instant): Promise<UnusedThings> {
  const [channels, routes, plans, responses, alarms, boards, keys, links, people, metrics] = await Promise.all([
    allChannels(db),
    allRoutes(db),
    allPlans(db),
    allResponses(db),
    listAlarms(db, now, []),
    unopenedSince(db, before(now, unusedFor)),
    allKeys(db),
    expiredLinks(db, now),
    allProfiles(db),
    unseenMetrics(db)
  ]);
  const notified = routes.flatMap(({ route }) => targetsOf(route));
  const isNotified = ({ id, personId }: { id: number; personId: number | null }) =>
    personId !== null ||
    notified.some((one) => one.kind === 'channel' && one.channelId === id) ||
    plans.some(({ plan }) => plan.channels.includes(id)) ||
    responses.some(({ response: { action } }) => action.kind === 'webhook' && action.channelId === id);
  const inView = (view: 'never' | 'always'): Unused[] =>
    alarms.filter(({ views }) => views.includes(view)).map(({ id, name, since }) => ({ id, name, at: since }));
  return {
    channels: channels
      .filter((one) => !isNotified(one))
      .map(({ id, name, address }) => ({ id, name: name === '' ? address : name, at: null })),
    neverRaised: inView('never'),
    alwaysRaised: inView('always'),
    boards,
    keys: keys
      .filter(
        ({ revokedAt, expiresAt, lastUsedAt, createdAt }) =>
          revokedAt === null &&
          ((expiresAt !== null && expiresAt < now) || (lastUsedAt ?? createdAt) < before(now, unusedFor))
      )
      .map(({ id, name, lastUsedAt }) => ({ id, name, at: lastUsedAt })),
    links: links.map(({ id, board, madeBy, isPrivate, expiresAt }) => ({
      ...{ id, name: `${isPrivate ? 'a private board' : board}, by ${madeBy}`, at: expiresAt }
    })),
    people: people
      .filter(({ disabledAt }) => disabledAt !== null)
      .map(({ id, displayName, disabledAt }) => ({ id, name: displayName, at: disabledAt })),
    metrics: metrics.slice(0, mostMetrics)
  };
}

/** Metrics that come in and that no alarm, board, derived metric, saved signal or promise picks. */
async function unseenMetrics(db: Queryable): Promise<UnseenMetric[]> {
  const [alarms, signals, derived, boards, promises, collected] = await Promise.all([
    allAlarms(db),
    allSignals(db),
    allDerived(db),
    allBoards(db),
    objectives.all(db),
    collectedMetrics(db)
  ]);
  const picked = new Set(
    [
      ...alarms.flatMap(({ definition }) => signalsOfAlarm(definition)),
      ...signals.map(({ definition }) => definition),
      ...derived.map(({ definition }) => definition),
      ...boards.flatMap(({ panels }) => panels.flatMap(signalsOf)),
      ...promises.flatMap(({ value }) => signalsOfObjective(value.of))
    ].flatMap((signal) => picksOf(signal).map(({ metric }) => metric))
  );
  const asked = [...picked];
  return collected.filter(({ name }) => !picked.has(name) && !asked.some((one) => asksFor(one, name)));
}
