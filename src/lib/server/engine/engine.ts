import { usualPlan } from '$lib/core/intake';
import { before, day, hour, minute, second, times, type Instant } from '$lib/core/time';
import { allAlarms } from '../alarms/alarms';
import { computeDerived } from '../query/derived/compute-derived';
import { forgetPulls } from '../intake/ledger/collections';
import { forgetExemplars } from '../inventory/exemplars';
import { followEvents } from '../intake/events/events';
import type { Intake } from '../intake/ledger/intake';
import { scheduleIntake } from '../intake/pull/schedule';
import { eraseRemoved } from '../intake/pull/remove-account';
import { forgetHistory } from '../incidents/history-retention';
import type { Health } from '../base/health';
import { forgetSessions } from '../people/sessions';
import { retain } from '../store/retention';
import { evaluateAlarm, type Engine } from './evaluate';
import { judgeHistory } from './judge-history';

/** How often, in real time, the engine asks the injected clock whether something is due. */
const heartbeatMs = 250;
/** Alarms are evaluated when samples arrive, and at least this often, so that silence is noticed too. */
const evaluateEvery = times(15, second);
/** Batches stay in the journal, and so in memory, this long; fewer points than these are kept there when many arrive at once. */
const unsealedFor = times(30, minute);
const mostUnsealed = 300_000;
/** How often, in real time, it is looked whether there is something to seal. */
const sealEveryMs = 2_000;

/** How often, in real time, it is checked whether more history has been fetched that is to be judged. */
const historyEveryMs = 3_000;

/**
 * Everything that runs on its own: pulling, evaluating, tidying. What is due is decided by the injected clock; the heartbeat only looks.
 *
 * @returns what stops it, letting running work end
 */
export function startEngine(engine: Engine & Intake & { readonly health: Health }): { stop(): Promise<void> } {
  const { db, clock, changes, log } = engine;
  const intake = scheduleIntake(engine);
  const events = followEvents(engine);
  let samplesArrived = true;
  let evaluatedAt = 0 as Instant;
  let tidiedAt = 0 as Instant;
  let beating: Promise<void> | null = null;
  let stopped = false;
  let historyDue = 0;
  let mayErase = true;
  let erasing: Promise<unknown> | null = null;

  const wake = () => (samplesArrived = true);
  changes.on('samples', wake);
  changes.on('definition', wake);
  const removed = () => (mayErase = true);
  changes.on('account', removed);

  async function beat(): Promise<void> {
    const now = clock.now();
    await intake.tick();
    await events.tick();
    if (samplesArrived || now - evaluatedAt >= evaluateEvery || now < evaluatedAt) {
      samplesArrived = false;
      evaluatedAt = now;
      await computeDerived(engine, () => stopped);
      for (const alarm of await allAlarms(db)) {
        await evaluateAlarm(engine, alarm).catch((error: unknown) =>
          log.error({ err: error, alarmId: alarm.id }, 'evaluation failed')
        );
        engine.health.progressed(); // after a long stop there is much to catch up with
      }
    }
    if (performance.now() >= historyDue) {
      const judged = await judgeHistory(engine).catch((error: unknown) => {
        log.error({ err: error }, 'history could not be judged');
        return false;
      });
      historyDue = judged ? 0 : performance.now() + historyEveryMs;
    }
    if (now - tidiedAt >= hour || now < tidiedAt) {
      tidiedAt = now;
      mayErase = true;
      await forgetSessions(db, now);
      await forgetPulls(db, before(now, times(2, day)));
      await forgetHistory(db, now);
      await forgetExemplars(db, before(now, times(usualPlan.keep.sampleDays, day)));
      if ((await retain(db, now)) > 0) await engine.store.samples.forgetDecoded();
    }
    if (mayErase) {
      mayErase = false;
      erasing ??= eraseRemoved(engine)
        .catch((error: unknown) => log.error({ err: error }, 'a removed account could not be erased'))
        .finally(() => (erasing = null));
    }
    engine.health.progressed();
  }

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
    await engine.store.samples.seal({ receivedBefore: before(now, unsealedFor), mostPoints: mostUnsealed }, now);
  }

  return {
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      clearInterval(sealTimer);
      await sealing;
      changes.off('samples', wake);
      changes.off('definition', wake);
      changes.off('account', removed);
      await beating;
      await erasing;
      await intake.stop();
      await events.stop();
    }
  };
}
