import { leftOutReasons, lineFaults, type LeftOutReason, type LineFault } from '$lib/core/logs';
import { isRefused } from '$lib/core/problem/problem';
import { noteDropped } from '../../intake/ledger/collections';
import type { Intake } from '../../intake/ledger/intake';
import { planOf } from '../../intake/plan/plans';
import { resourcesOfAccount } from '../../inventory/resources';
import type { ParserPool } from '../../parsing/parser-pool';
import type { ReceivedLines } from '../../parsing/tasks';
import type { LineFeed, LinesPage } from '../../providers/port/provider';
import type { LogClient } from '../open-logs';
import { belongingOf, ResourcesByName } from '../whose-lines';
import { noteHits, rulesFor } from '../line-rules';
import { noteArrived, type FeedProgress } from './feeds';

/** What reading lines of providers needs. */
export interface LineIntake extends Intake {
  readonly parsers: ParserPool;
  readonly logs: LogClient;
}

/**
 * Stores a page of lines, together with how far its feed has come: lines are never stored twice, whatever happens to the process. A page that cannot be read costs itself alone: it is counted, and the feed goes on behind it.
 *
 * @throws Refusal when there is no room, or too much waits
 */
export async function takePage(
  intake: LineIntake,
  { accountId, feed, progress, isHistory }: PageOf,
  { body, isGzip }: LinesPage
): Promise<void> {
  const { db, clock, parsers, logs, disk } = intake;
  disk.refuseWhenLow();
  const { lines, leaveOut } = await planOf(db, accountId, feed.service);
  const admission = { from: lines.from, namespaces: leaveOut.namespaces, leaveOut: lines.leaveOut };
  const received = await parsers
    .lines({ format: 'ndjson', body, isGzip, now: clock.now(), admission, rules: await rulesFor(db, accountId) })
    .catch((error: unknown) => {
      if (!isRefused(error, 'unreadable', 'too-large')) throw error;
      return notTaken(lineFaults.page, 1, error.message);
    });
  const resources = await resourcesOfAccount(db, accountId);
  const byName = new ResourcesByName(resources);
  const own = resources.find(({ providerId }) => providerId === feed.resource) ?? null;
  const arriving = received.batches.map(({ origin, batch }) => ({
    ...(own === null
      ? belongingOf(origin, byName, { accountId, name: feed.name, service: feed.service })
      : { accountId, service: own.service, stream: own.name, resourceId: own.id }),
    batch
  }));
  const now = clock.now();
  const stored = await logs.logs.append(now, arriving, { progress, isHistory });
  await note(intake, accountId, feed.service, received, stored);
}

/** What is read of a body that is not taken: so many lines are counted, with the reason. */
export const notTaken = (fault: LineFault, lines: number, why: string): ReceivedLines => ({
  ...{ batches: [], refused: lines, bytes: 0, ruled: {}, leftOut: { severity: 0, namespace: 0, search: 0, rule: 0 } },
  faults: [{ fault, count: lines, example: why }]
});

/** Which feed a page is of, and how far it has come with it. */
export interface PageOf {
  readonly accountId: number;
  readonly feed: LineFeed;
  readonly progress: FeedProgress;
  readonly isHistory: boolean;
}

/** Counts what arrived and what did not, so that people see it. */
export async function note(
  { db, clock }: Pick<Intake, 'db' | 'clock'>,
  accountId: number,
  service: string,
  { leftOut, refused, faults, bytes, ruled }: ReceivedLines,
  stored: number
): Promise<void> {
  const now = clock.now();
  const out = (Object.keys(leftOut) as LeftOutReason[]).filter((reason) => leftOut[reason] > 0);
  const dropped = [
    ...out.map((reason) => ({ reason: leftOutReasons[reason], count: leftOut[reason], example: '' })),
    ...faults.map(({ fault, count, example }) => ({ reason: `lines: ${fault}`, count, example }))
  ];
  await noteHits(db, ruled, now);
  if (dropped.length > 0) await noteDropped(db, accountId, service, dropped, now);
  const leftOutAll = out.reduce((sum, reason) => sum + leftOut[reason], 0);
  if (stored + leftOutAll + refused > 0)
    await noteArrived(db, accountId, service, { lines: stored, bytes, leftOut: leftOutAll, refused }, now);
}
