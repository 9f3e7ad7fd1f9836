// alarm_work, collections, incidents, outbox and the size of the database
import type { Duration, Instant } from '$lib/core/time';
import { planEvery, usualPlan } from '$lib/core/intake';
import { countOf, countedWork, secondsOf, timedWork } from '../base/own-counters';
import type { Disk } from '../base/disk';
import type { Health } from '../base/health';
import { oneRow, type Queryable } from '../db/pool';
import { scheduledAccounts } from '../inventory/accounts';
import { allCollections } from '../intake/ledger/collections';
import { backupFigures } from '../backup/figures';
import { allPlans } from '../intake/plan/plans';
import type { QueryQueue } from '../query/query-queue';

/** What reading the health of a process needs. */
export interface Observed {
  readonly db: Queryable;
  readonly health: Health;
  readonly disk: Disk;
  readonly queryQueue: Pick<QueryQueue, 'length'>;
  /** Accounts of these are pulled. */
  readonly providers: Readonly<Record<string, unknown>>;
}

/**
 * Reads everything of {@link healthMetrics} that there is to read now.
 *
 * @returns values by the name of their metric
 * @example (await readHealth(bussola(), now)).get('bussola.outbox.waiting') // 0
 */
export async function readHealth(
  { db, health, disk, queryQueue, providers }: Observed,
  now: Instant
): Promise<Map<string, number>> {
  const [intakeLag, stored, backups] = await Promise.all([
    lagOfIntake(db, providers, now),
    storedFigures(db, now),
    backupFigures(db, now)
  ]);
  const report = health.report();
  const memory = process.memoryUsage();
  const { user, system } = process.cpuUsage();
  const read = new Map<string, number>([
    ['bussola.intake.lag', intakeLag / 1000],
    ['bussola.judging.lag', stored.judgingLag / 1000],
    ['bussola.outbox.waiting', stored.waiting],
    ['bussola.outbox.lag', stored.outboxLag / 1000],
    ['bussola.commit.age', report.sinceCommit],
    ['bussola.engine.age', report.sinceProgress],
    ['bussola.loop.block', report.longestHold / 1000],
    ['bussola.memory', memory.rss],
    ['bussola.heap', memory.heapUsed],
    ['bussola.uptime', Math.round(process.uptime())],
    ['bussola.database.size', stored.size],
    ['bussola.queries.waiting', queryQueue.length],
    ['bussola.incidents.open', stored.open],
    ['bussola.processor.time', (user + system) / 1e6]
  ]);
  if (backups.overdue !== null) read.set('bussola.backup.overdue', backups.overdue);
  if (backups.rehearsalFailed !== null) read.set('bussola.rehearsal.failed', backups.rehearsalFailed);
  const state = disk.state();
  if (state !== null) read.set('bussola.disk.free', state.free);
  for (const work of countedWork) read.set(`bussola.${work}`, countOf(work));
  for (const work of timedWork) read.set(`bussola.${work}.time`, secondsOf(work));
  return read;
}

/** How long the pull is overdue that is overdue longest, ms; those that a provider asked to wait for are not. */
async function lagOfIntake(db: Queryable, providers: Observed['providers'], now: Instant): Promise<number> {
  const [accounts, collections, plans] = await Promise.all([scheduledAccounts(db), allCollections(db), allPlans(db)]);
  const pulled = new Set(accounts.filter(({ provider }) => provider in providers).map(({ id }) => id));
  const overdue = collections.map(({ accountId, service, lastPullAt, notBefore }) => {
    const { plan = usualPlan } = plans.find((one) => one.accountId === accountId && one.service === service) ?? {};
    if (!pulled.has(accountId) || plan.collect === 'nothing' || lastPullAt === null) return 0;
    return now - Math.max(lastPullAt + planEvery(plan), notBefore ?? 0);
  });
  return Math.max(0, ...overdue);
}

interface StoredFigures {
  readonly judgingLag: Duration;
  readonly waiting: number;
  readonly outboxLag: Duration;
  readonly open: number;
  readonly size: number;
}

async function storedFigures(db: Queryable, now: Instant): Promise<StoredFigures> {
  return oneRow(
    await db.rows<StoredFigures>(
      `select
        (select coalesce(max($1 - due_at), 0)::bigint from alarm_work where due_at > 0 and due_at <= $1) as "judgingLag",
        (select count(*)::integer from outbox where state = 'queued' and coalesce(hold_until, 0) <= $1) as waiting,
        (select coalesce(max($1 - greatest(created_at, coalesce(hold_until, 0))), 0)::bigint
         from outbox where state = 'queued' and coalesce(hold_until, 0) <= $1) as "outboxLag",
        (select count(*)::integer from incidents where closed_at is null) as open,
        pg_database_size(current_database())::bigint as size`,
      [now]
    )
  );
}
