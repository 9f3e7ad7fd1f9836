import { usualPlan } from '$lib/core/intake';
import { before, day, hour, minute, second, times, type Instant } from '$lib/core/time';
import { computeDerived } from '../query/derived/compute-derived';
import { forgetPulls } from '../intake/ledger/collections';
import { forgetExemplars } from '../inventory/exemplars';
import { followEvents } from '../intake/events/events';
import type { Intake } from '../intake/ledger/intake';
import { scheduleIntake } from '../intake/pull/schedule';
import { eraseRemoved } from '../intake/pull/remove-account';
import { forgetRemoved } from '../alarms/alarms';
import { forgetRemovals } from '../removals/removals';
import { forgetHistory } from '../incidents/history-retention';
import { timed } from '../base/own-counters';
import type { Config } from '../base/config';
import type { Health } from '../base/health';
import { forgetSessions } from '../people/sessions';
import { forgetLinks } from '../people/links';
import { forgetActs } from '../audit/acts';
import { retain } from '../store/retention';
import type { SignalEvaluator } from '../query/signals/work';
import { ResourceStates } from '../reachability/measure-resources';
import { forgetModels } from './band-models';
import type { JudgingClient } from './engine-thread';
import type { JudgingFault } from './judging';
import { BudgetMeasures } from '../cost/measure-budgets';
import type { CostClient } from '../cost/open-costs';
import { ObjectiveMeasures } from '../objective/measure-objectives';
import type { ObjectiveCounts } from '../objective/objective-counts';
import type { QueryQueue } from '../query/query-queue';
import { ownProcess } from '../intake/own/own-process';
import { readHealth } from '../observe/read-health';
import { saveOwnMeasures } from '../intake/own/measure-accounts';
import { measureOwn } from './measure-own';

/** How often, in real time, the engine asks the injected clock whether something is due. */
const heartbeatMs = 250;
/** Derived metrics are computed when samples arrive, and at least this often. */
const computeEvery = times(15, second);
/** Accounts are measured this often. */
const measureEvery = minute;
/** Batches stay in the journal, and so in memory, this long; fewer points than these are kept there when many arrive at once. */
const unsealedFor = times(30, minute);
const mostUnsealed = 300_000;
/** How often, in real time, it is looked whether there is something to seal. */
const sealEveryMs = 2_000;

/** How often, in real time, it is checked whether more history has been fetched that is to be judged. */
const historyEveryMs = 3_000;

/** What the engine works with. */
export interface Engine extends Intake {
  readonly health: Health;
  readonly evaluator: SignalEvaluator;
  readonly judging: JudgingClient;
  readonly costs: CostClient;
  readonly objectives: ObjectiveCounts;
  readonly config: Pick<Config, 'instance'>;
  readonly queryQueue: Pick<QueryQueue, 'length'>;
}

/**
 * What runs on its own: pulling, judging, tidying. What is due is decided by the injected clock; the heartbeat only looks.
 *
 * @returns what stops it, letting running work end
 */
export function startEngine(engine: Engine): { stop(): Promise<void> } {
  const { db, clock, changes, log, duties } = engine;
  const intake = scheduleIntake(engine);
  const events = followEvents(engine);
  const own = {
    states: new ResourceStates(engine),
    budgets: new BudgetMeasures(engine.costs),
    promises: new ObjectiveMeasures(engine.objectives),
    health: async (now: Instant) => ownProcess(engine.config.instance, await readHealth(engine, now), now)
  };
  let samplesArrived = true;
  let computedAt = 0 as Instant;
  let beatAt = 0 as Instant;
  let tidiedAt = 0 as Instant;
  let measuredAt = 0 as Instant;
  let beating: Promise<void> | null = null;
  let stopped = false;
  let historyDue = 0;
  let mayErase = true;
  let erasing: Promise<unknown> | null = null;

  let wake: 'none' | 'waiting' | 'all' = 'all';
  const samplesCame = () => {
    samplesArrived = true;
    if (wake === 'none') wake = 'waiting';
  };
  const definitionChanged = () => {
    samplesArrived = true;
    wake = 'all';
  };
  changes.on('samples', samplesCame);
  changes.on('definition', definitionChanged);
  const removed = () => (mayErase = true);
  changes.on('account', removed);

  async function beat(): Promise<void> {
    const now = clock.now();
    // A clock that was set back makes all due: what is due later by it may have been due long ago.
    if (now < beatAt) wake = 'all';
    beatAt = now;
    await intake.tick();
    await events.tick();
    if (samplesArrived || now - computedAt >= computeEvery || now < computedAt) {
      samplesArrived = false;
      computedAt = now;
      await duties.during('derived metrics', () => computeDerived(engine, () => stopped));
    }
    if (now - measuredAt >= measureEvery || now < measuredAt) {
      measuredAt = (Math.floor(now / measureEvery) * measureEvery) as Instant;
      await measured(now).catch((error: unknown) => log.error({ err: error }, 'accounts could not be measured'));
    }
    await judge(now);
    if (performance.now() >= historyDue) {
      const more = await duties
        .during('history', () => judgeHistory(now))
        .catch((error: unknown) => {
          log.error({ err: error }, 'history could not be judged');
          return false;
        });
      historyDue = more === true ? 0 : performance.now() + historyEveryMs;
    }
    if (now - tidiedAt >= hour || now < tidiedAt) {
      tidiedAt = now;
      mayErase = true;
      await duties.during('tidying', () => tidy(now));
    }
    if (mayErase) {
      mayErase = false;
      erasing ??= duties
        .during('erasing', () => eraseRemoved(engine))
        .catch((error: unknown) => log.error({ err: error }, 'a removed account could not be erased'))
        .finally(() => (erasing = null));
    }
    engine.health.progressed();
  }

  /** What every process measures of itself, and one of them for all. */
  async function measured(now: Instant): Promise<void> {
    const isDone = await duties.during('measuring', () => measureOwn(engine, own, now).then(() => true));
    if (isDone === null) await saveOwnMeasures(engine, now, await own.health(now));
  }

  /** Removes what is stored no longer. */
  async function tidy(now: Instant): Promise<void> {
    await forgetSessions(db, now);
    await forgetLinks(db, now);
    await forgetActs(db, now);
    await forgetPulls(db, before(now, times(2, day)));
    await forgetHistory(db, now);
    await forgetRemoved(db, now);
    await forgetRemovals(db, now);
    await forgetModels(db, before(now, times(usualPlan.keep.incidentDays, day)));
    await forgetExemplars(db, before(now, times(usualPlan.keep.sampleDays, day)));
    if ((await retain(db, now)) > 0) await engine.store.samples.forgetDecoded();
  }

  /** Judges what is due; after a long stop, in several calls. */
  async function judge(now: Instant): Promise<void> {
    while (!stopped) {
      const woken = wake;
      wake = 'none';
      const { changed, faults, more } = await timed('judgings', () =>
        engine.judging.judgeDue(now, duties.id, woken, duties.engines())
      );
      faults.forEach(logged);
      for (const alarmId of changed) changes.tell('alarm', { alarmId });
      engine.health.progressed(); // after a long stop there is much to catch up with
      if (!more) return;
    }
  }

  /** @returns whether something was judged */
  async function judgeHistory(now: Instant): Promise<boolean> {
    const { judged, faults } = await engine.judging.judgeHistory(now);
    faults.forEach(logged);
    if (judged?.found) changes.tell('alarm', { alarmId: judged.alarmId });
    return judged !== null;
  }

  const logged = ({ alarmId, what, message, stack }: JudgingFault): void =>
    log.error({ alarmId, fault: message, stack }, what);

  const timer = setInterval(() => {
    beating ??= beat()
      .catch((error: unknown) => log.error({ err: error }, 'heartbeat failed'))
      .finally(() => (beating = null));
  }, heartbeatMs);

  let sealing: Promise<void> | null = null;
  const sealTimer = setInterval(() => {
    sealing ??= sealDue()
      .catch((error: unknown) => log.error({ err: error }, 'sealing failed'))
      .finally(() => (sealing = null));
  }, sealEveryMs);

  async function sealDue(): Promise<void> {
    await engine.store.ready;
    if (!engine.disk.maySeal()) return;
    const now = clock.now();
    const limits = { receivedBefore: before(now, unsealedFor), mostPoints: mostUnsealed };
    await duties.during('sealing', (held) => engine.store.samples.seal(limits, now, held));
  }

  return {
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      clearInterval(sealTimer);
      await sealing;
      changes.off('samples', samplesCame);
      changes.off('definition', definitionChanged);
      changes.off('account', removed);
      await beating;
      await own.budgets.settled();
      await own.promises.settled();
      await erasing;
      await intake.stop();
      await events.stop();
    }
  };
}
