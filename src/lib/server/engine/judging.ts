import { isRefused, problemOf, Refusal, type Problem } from '$lib/core/problem/problem';
import { MemoryDamaged, type BandAnswer, type Explanation, type RehearsalAnswer } from '$lib/core/alarm';
import { after, hour, minute, times, type Duration, type Instant } from '$lib/core/time';
import {
  alarmById,
  makeIndeterminate,
  noteAlarmError,
  seriesStates,
  type Alarm,
  type AlarmError
} from '../alarms/alarms';
import {
  lookAgainAfter,
  postponeWork,
  saveWork,
  takeDue,
  wakeAll,
  wakeWaiting,
  type TakenAlarm
} from '../alarms/alarm-work';
import type { Database } from '../db/pool';
import { noteUnjudged } from '../incidents/events';
import { openIncidentsOfAlarm } from '../incidents/incidents';
import { allCollections } from '../intake/ledger/collections';
import type { SignalEvaluator } from '../query/signals/work';
import type { SampleStore } from '../store/sample-store';
import type { BandsOf } from './condition-data';
import { drawBands, type BandsAsked } from './draw-bands';
import { explainAlarm, type ExplanationAsked } from './explain';
import { judgeAlarm } from './judge-alarm';
import { judgeHistory } from './judge-history';
import { Memories } from './memories';
import { LeaseLost, record } from './record';
import { rehearseAlarm, type RehearsalAsked } from './rehearse-alarm';
import type { SourceContext } from './source';

/** An alarm that cannot be judged for so long is reported to its channels. */
const unjudgedFor = times(10, minute);
/** An alarm that is off is looked at again after so long, when nobody switches it on before. */
const offFor = times(12, hour);
/** One that cannot be read is tried again after so long. */
const unreadableFor = times(10, minute);
/** Alarms that are taken at once. */
const takenAtOnce = 10;
/** One call ends after so long, ms, even when more is due: what waits for its end gets its turn. */
const longestCall = 2_000;

/** Something unexpected, for the log. */
export interface JudgingFault {
  readonly alarmId: number;
  readonly what: string;
  readonly message: string;
  readonly stack: string;
}

/** What came of judging. */
export interface JudgingReport {
  /** Alarms of which a state or a fault changed. */
  readonly changed: readonly number[];
  readonly faults: readonly JudgingFault[];
  /** Whether more is due. */
  readonly more: boolean;
}

/** What is known of the samples that came. */
type Samples = Pick<SampleStore, 'newest' | 'cameAt'>;

/**
 * Judges alarms that are due: takes them by lease, judges their new cells, records what came of it. Lives in the thread of the samples; its methods take and give only what can cross a thread's border.
 */
export class Judging {
  readonly #db: Database;
  readonly #evaluator: SignalEvaluator;
  readonly #samples: Samples;
  readonly #bandsOf: BandsOf;
  readonly #memories = new Memories();

  constructor(db: Database, evaluator: SignalEvaluator, samples: Samples, bandsOf: BandsOf) {
    this.#db = db;
    this.#evaluator = evaluator;
    this.#samples = samples;
    this.#bandsOf = bandsOf;
  }

  /**
   * Judges what is due.
   *
   * @param holder of the leases: one for each engine on the database
   * @param engines ids of the engines that live; null where that is not known
   * @param wake alarms that are due besides: those that wait for samples, since some have come, or all
   */
  async judgeDue(
    now: Instant,
    holder: string,
    wake: 'none' | 'waiting' | 'all',
    engines: readonly string[] | null = null
  ): Promise<JudgingReport> {
    const changed: number[] = [];
    const faults: JudgingFault[] = [];
    if (wake === 'waiting') await wakeWaiting(this.#db, now);
    if (wake === 'all') await wakeAll(this.#db);
    const began = performance.now();
    for (;;) {
      const taken = await takeDue(this.#db, holder, now, takenAtOnce, engines);
      if (taken.length === 0) return { changed, faults, more: false };
      const context = await this.#context(now);
      for (const one of taken) if (await this.#judgeOne(context, one, faults)) changed.push(one.alarmId);
      if (performance.now() - began > longestCall) return { changed, faults, more: true };
    }
  }

  /** Judges one more piece of history that alarms want judged. */
  async judgeHistory(
    now: Instant,
    piece?: Duration
  ): Promise<{ readonly judged: Awaited<ReturnType<typeof judgeHistory>>; readonly faults: JudgingFault[] }> {
    const faults: JudgingFault[] = [];
    const onFault = (alarmId: number, error: unknown) =>
      faults.push(faultOf(alarmId, 'the history of an alarm could not be judged', error));
    const judged = await judgeHistory(await this.#context(now), onFault, piece);
    return { judged, faults };
  }

  /** What an alarm would have done over stored history; a problem when it cannot be told. */
  rehearse(now: Instant, asked: RehearsalAsked): Promise<RehearsalAnswer | Problem> {
    return orProblem(async () => rehearseAlarm(await this.#context(now), asked));
  }

  /** What an alarm saw of a series at a moment; a problem when it cannot be told. */
  explain(now: Instant, asked: ExplanationAsked): Promise<Explanation | Problem> {
    return orProblem(async () => explainAlarm(await this.#context(now), asked));
  }

  /** Anomaly bands of a signal, to be drawn; a problem when they cannot be told. */
  bands(now: Instant, asked: BandsAsked): Promise<BandAnswer | Problem> {
    return orProblem(async () => drawBands(await this.#context(now), asked));
  }

  async #context(now: Instant): Promise<SourceContext> {
    const collections = await allCollections(this.#db);
    const newest = (ids: readonly number[]) => this.#samples.newest(ids);
    return {
      db: this.#db,
      evaluator: this.#evaluator,
      now,
      arrivals: { now, collections, newest },
      bandsOf: this.#bandsOf,
      memories: this.#memories,
      cameAt: (seriesId, grid) => this.#samples.cameAt(seriesId, grid)
    };
  }

  async #judgeOne(context: SourceContext, taken: TakenAlarm, faults: JudgingFault[]): Promise<boolean> {
    const { now } = context;
    let alarm: Alarm | null = null;
    try {
      alarm = await alarmById(this.#db, taken.alarmId);
      if (alarm === null) return false; // removed meanwhile, and its work with it
      if (!alarm.definition.enabled) return await this.#letGo(alarm, taken, now);
      const judged = await judgeAlarm(context, alarm, taken);
      const recovered = alarm.lastError !== null;
      const changes = await record(this.#db, taken, alarm, judged, now, recovered);
      if (judged.work.memory) this.#memories.note(alarm.id, judged.work.memory, judged.remembered);
      if (recovered) await noteAlarmError(this.#db, alarm.id, null);
      return changes > 0;
    } catch (error) {
      if (error instanceof LeaseLost) return false;
      if (error instanceof MemoryDamaged && alarm !== null) {
        // What is open is known all the same: judging begins anew from there.
        faults.push(faultOf(alarm.id, 'what was remembered of an alarm cannot be read; it begins anew', error));
        await saveWork(this.#db, taken, { version: 0, memory: null, dueAt: now, nextEnd: now });
        return false;
      }
      await postponeWork(this.#db, taken, after(now, alarm === null ? unreadableFor : lookAgainAfter));
      if (alarm === null) {
        // One that cannot be read is named when Bussola starts, on Watch and by the doctor.
        if (!isRefused(error, 'stored-unreadable'))
          faults.push(faultOf(taken.alarmId, 'an alarm cannot be read', error));
        return false;
      }
      return this.#noteUnjudged(alarm, error, now, faults);
    }
  }

  /** Lets go of what an alarm watched that was switched off: its incidents end, and nothing is remembered. It is due again when it is changed. */
  async #letGo(alarm: Alarm, taken: TakenAlarm, now: Instant): Promise<boolean> {
    const open = await openIncidentsOfAlarm(this.#db, alarm.id);
    const known = await seriesStates(this.#db, alarm.id);
    const gone = [...new Set([...open, ...known].map(({ key }) => key))];
    const later = after(now, offFor);
    const work = { version: alarm.version, memory: null, dueAt: later, nextEnd: later };
    await record(this.#db, taken, alarm, { unit: '1', series: [], gone, open, work, remembered: new Map() }, now);
    if (alarm.lastError !== null) await noteAlarmError(this.#db, alarm.id, null);
    return gone.length > 0;
  }

  /** Notes why an alarm cannot be judged: all its states are indeterminate, and after ten minutes its channels are to hear of it. An unexpected error is reported once, not with every try. */
  async #noteUnjudged(alarm: Alarm, error: unknown, now: Instant, faults: JudgingFault[]): Promise<boolean> {
    const { message, remedy } =
      error instanceof Refusal
        ? error
        : {
            message: `An unexpected error stopped it (${error instanceof Error ? error.name : 'unknown'}).`,
            remedy: 'See Bussola’s log; it is tried again by itself.'
          };
    const known = alarm.lastError?.message === message ? alarm.lastError : null;
    if (known === null && !(error instanceof Refusal))
      faults.push(faultOf(alarm.id, 'an alarm cannot be judged', error));
    const since = known?.since ?? alarm.lastError?.since ?? now;
    const notifiedAt = alarm.lastError?.notifiedAt ?? null;
    const isDue = notifiedAt === null && now - since >= unjudgedFor;
    if (known !== null && !isDue) return false;
    const noted: AlarmError = { message, remedy, since, notifiedAt: isDue ? now : notifiedAt };
    await this.#db.transaction(async (within) => {
      await noteAlarmError(within, alarm.id, noted);
      await makeIndeterminate(within, alarm.id, now);
      if (isDue) await noteUnjudged(within, alarm.id, now);
    });
    return true;
  }
}

/** Refusals as what can cross a thread's border. */
async function orProblem<Answer>(work: () => Promise<Answer>): Promise<Answer | Problem> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return problemOf(error);
  }
}

const faultOf = (alarmId: number, what: string, error: unknown): JudgingFault => ({
  alarmId,
  what,
  message: error instanceof Error ? error.message : String(error),
  stack: error instanceof Error ? (error.stack ?? '') : ''
});
