import { resolve } from 'node:path';
import type { Logger } from 'pino';
import { nextBackup, type BackupPlan } from '$lib/core/backup';
import { Refusal } from '$lib/core/problem/problem';
import { before, day, hour, times, type Instant } from '$lib/core/time';
import type { Config } from '../base/config';
import { version } from '../base/version';
import type { Context } from '../db/context';
import type { Connection } from '../db/pool';
import { BackupFolder, backupName } from './backup-folder';
import type { Progress } from './file/format';
import type { Order } from './orders';
import { backupPlan, moveOnPlan, savePlan } from './plans';
import {
  backupById,
  beginRecord,
  deleteRecord,
  endForsaken,
  endRecord,
  forgetFile,
  forgetRecords,
  lastGood,
  noteProgress,
  superfluous
} from './records';
import { runOrder, type Outcome, type Running } from './run-order';

/** What backups need. */
export interface BackingUp extends Context {
  readonly config: Pick<Config, 'backups' | 'data' | 'key' | 'databaseUrl'>;
  readonly connection: Connection;
  readonly log: Logger;
}

/** How often, in real time, it is looked whether one is due, and said how far one is, ms. */
const [lookEveryMs, noteEveryMs] = [1000, 1000];
/** After a look that failed, the next is so much later, ms. */
const againAfterMs = 60_000;
/** One whose process has said nothing for so many seconds has ended without a word. */
const forsakenAfter = 120;
const rememberedFor = times(400, day);
const week = times(7, day);

/** Makes backups, by hand and when they are due, and rehearses restoring them; one at a time, whatever number of processes there are. */
export class Backups {
  readonly #needs: BackingUp;
  /** Where its files are. */
  readonly folder: BackupFolder;
  #running: { readonly id: number; readonly process: Running; readonly ended: Promise<void> } | null = null;
  #looking: Promise<void> | null = null;
  #timer: NodeJS.Timeout | undefined;
  #looksAgainAt = 0;
  #tidiedAt = 0 as Instant;

  constructor(needs: BackingUp) {
    this.#needs = needs;
    this.folder = new BackupFolder(needs.config.backups);
  }

  /** Begins to look whether one is due. What a process that was killed left behind goes. */
  async start(): Promise<void> {
    const { clock, config, log } = this.#needs;
    const isAlone = config.databaseUrl === null;
    await this.#endForsaken(isAlone ? 0 : forsakenAfter, clock.now());
    if (isAlone) await this.folder.removeAllWork();
    this.#timer = setInterval(() => {
      if (performance.now() < this.#looksAgainAt) return;
      this.#looking ??= this.#look()
        .catch((error: unknown) => {
          this.#looksAgainAt = performance.now() + againAfterMs;
          log.error({ err: error }, 'backups could not be looked at; it is tried again in a minute');
        })
        .finally(() => (this.#looking = null));
    }, lookEveryMs);
  }

  /** Lets what runs be stopped: a backup is whole or not there. */
  async close(): Promise<void> {
    clearInterval(this.#timer);
    await this.#looking;
    this.#running?.process.stop();
    await this.#running?.ended;
  }

  /**
   * Begins a backup.
   *
   * @returns its id
   * @throws Refusal `in-use` while another one, or a rehearsal, runs; `data-folder` where the folder cannot be written
   */
  async makeBackup(by: string, isScheduled = false): Promise<number> {
    const { clock, config, connection } = this.#needs;
    await this.folder.make();
    const beganAt = clock.now();
    const file = backupName(beganAt);
    return this.#begin({ kind: 'backup', backupId: null, beganAt, beganBy: by, isScheduled, file }, (work): Order => ({
      ...{ kind: 'backup', connection, work, file: this.folder.fileOf(file) },
      database: config.databaseUrl === null ? resolve(config.data, 'database') : null,
      about: { bussola: version, madeAt: beganAt }
    }));
  }

  /**
   * Begins to rehearse restoring a backup.
   *
   * @returns the id of the rehearsal
   * @throws Refusal `not-found` where its file is not there; `in-use`
   */
  async beginRehearsal(backupId: number, by: string, isScheduled = false): Promise<number> {
    const { db, clock, config } = this.#needs;
    const backup = await backupById(db, backupId);
    if (backup?.kind !== 'backup' || backup.state !== 'done' || backup.file === null || !this.folder.has(backup.file))
      throw new Refusal(
        'not-found',
        'There is no file of such a backup.',
        `It was removed, or lies elsewhere: files are looked for in ${this.folder.path}.`
      );
    const file = this.folder.fileOf(backup.file);
    return this.#begin(
      { kind: 'rehearsal', backupId, beganAt: clock.now(), beganBy: by, isScheduled, file: null },
      (work): Order => ({ kind: 'rehearsal', file, work, keyPlace: { key: config.key, data: resolve(config.data) } })
    );
  }

  /** Stops what runs; nothing of it is left. @throws Refusal `not-found` where it does not run */
  async stop(id: number): Promise<void> {
    const { db, clock } = this.#needs;
    const isStopped = await endRecord(db, id, { state: 'stopped', endedAt: clock.now(), result: null, problem: null });
    if (!isStopped) throw new Refusal('not-found', 'It does not run any more.', 'Load the page again.');
    // Another process that runs it learns it from its record.
    if (this.#running?.id === id) this.#running.process.stop();
    this.#tell();
  }

  /** Removes a backup and its file, or a rehearsal. @throws Refusal `not-found`, `in-use` */
  async remove(id: number): Promise<void> {
    const { db } = this.#needs;
    const found = await backupById(db, id);
    if (found === null) throw new Refusal('not-found', 'There is no such backup.', 'It may have been removed.');
    if (!(await deleteRecord(db, id)))
      throw new Refusal('in-use', 'It is running.', 'Stop it first, or wait until it has ended.');
    if (found.kind === 'backup' && found.file !== null) await this.folder.remove(found.file);
    this.#tell();
  }

  /** Schedules backups. @throws Refusal `changed-meanwhile` */
  async schedule(plan: BackupPlan, seen: number | null, by: string): Promise<void> {
    const { db, clock } = this.#needs;
    const now = clock.now();
    const nextAt = plan.enabled ? nextBackup(plan, now) : null;
    if (!(await savePlan(db, plan, seen, { nextAt, changedAt: now, changedBy: by })))
      throw new Refusal(
        'changed-meanwhile',
        'Somebody else changed the schedule after you opened it.',
        'Load the page again, and enter your changes there.'
      );
    this.#tell();
  }

  /** Waits for what runs in this process. */
  async settled(): Promise<void> {
    await this.#running?.ended;
  }

  async #begin(begun: Parameters<typeof beginRecord>[1], orderOf: (work: string) => Order): Promise<number> {
    const { db } = this.#needs;
    await this.#endForsaken(forsakenAfter, begun.beganAt);
    const id = await beginRecord(db, begun);
    if (id === null)
      throw new Refusal(
        'in-use',
        'A backup or a rehearsal is running already.',
        'Wait until it has ended, or stop it.'
      );
    let far: Progress | null = null;
    const process = runOrder(orderOf(this.folder.workOf(id)), (progress) => (far = progress));
    const noting = setInterval(() => {
      void noteProgress(db, id, far)
        .then((goesOn) => (goesOn ? this.#tell() : process.stop()))
        .catch((error: unknown) => this.#needs.log.warn({ err: error }, 'how far a backup is could not be noted'));
    }, noteEveryMs);
    const ended = process.outcome
      .finally(() => clearInterval(noting))
      .then((outcome) => this.#end(id, begun, outcome))
      .catch((error: unknown) => this.#needs.log.error({ err: error }, 'the end of a backup could not be noted'))
      .finally(() => this.#forget(id));
    this.#running = { id, process, ended };
    this.#tell();
    return id;
  }

  async #end(
    id: number,
    { kind, file, isScheduled }: Parameters<typeof beginRecord>[1],
    outcome: Outcome
  ): Promise<void> {
    const { db, clock, log } = this.#needs;
    const endedAt = clock.now();
    await this.folder.removeWorkOf(id);
    const isGood = outcome.kind === 'done' && (outcome.result.findings ?? []).length === 0;
    const ranUntilNow = await endRecord(db, id, {
      state: outcome.kind === 'stopped' ? 'stopped' : isGood ? 'done' : 'failed',
      endedAt,
      result: outcome.kind === 'done' ? outcome.result : null,
      problem: outcome.kind === 'failed' ? outcome.problem : null
    });
    // Whoever stopped it may have done so in another process, after its file had its name.
    if (file !== null && (outcome.kind !== 'done' || !ranUntilNow)) await this.folder.remove(file);
    if (outcome.kind === 'failed') log.error({ kind, problem: outcome.problem }, 'a backup or a rehearsal failed');
    else log.info({ kind, outcome }, 'a backup or a rehearsal ended');
    this.#tell();
    if (kind === 'backup' && isScheduled && isGood && ranUntilNow) await this.#afterScheduled(id);
  }

  /** Removes scheduled backups that are too many, and rehearses restoring this one when that is due. */
  async #afterScheduled(id: number): Promise<void> {
    const { db, clock } = this.#needs;
    const stored = await backupPlan(db);
    if (stored === null) return;
    const { stay, rehearse } = stored.plan;
    for (const old of await superfluous(db, stay)) {
      if (old.file !== null) await this.folder.remove(old.file);
      await forgetFile(db, old.id);
    }
    const rehearsed = await lastGood(db, 'rehearsal');
    const isDue = rehearse === 'each' || (rehearse === 'week' && (rehearsed ?? 0) <= before(clock.now(), week) + hour);
    this.#forget(id);
    if (isDue) await this.beginRehearsal(id, 'Bussola', true);
  }

  /** What has ended runs no more; another may have begun since. */
  #forget(id: number): void {
    if (this.#running?.id === id) this.#running = null;
  }

  async #look(): Promise<void> {
    const { db, clock, log } = this.#needs;
    const now = clock.now();
    const stored = await backupPlan(db);
    const nextAt = stored?.nextAt ?? null;
    if (stored !== null && nextAt !== null) {
      const { plan } = stored;
      const next = nextBackup(plan, now);
      // One that is due later than any can be: a clock that was ahead was set back.
      if (nextAt > next) await moveOnPlan(db, stored, next);
      else if (nextAt <= now) {
        const refusal = await this.#makeDue();
        // While another one runs, it stays due.
        if (refusal?.code !== 'in-use' && (await moveOnPlan(db, stored, next)) && refusal !== null) {
          log.error({ problem: refusal.message }, 'a backup was due and could not be made');
          await this.#noteRefused(now, refusal);
        }
      }
    }
    if (now - this.#tidiedAt >= hour || now < this.#tidiedAt) {
      this.#tidiedAt = now;
      await this.#endForsaken(forsakenAfter, now);
      await forgetRecords(db, before(now, rememberedFor));
    }
  }

  /** @returns why it cannot be made; null when it has begun */
  async #makeDue(): Promise<Refusal | null> {
    try {
      await this.makeBackup('Bussola', true);
      return null;
    } catch (error) {
      if (error instanceof Refusal) return error;
      throw error;
    }
  }

  /** A backup that was due and could not begin stands in the list as failed. */
  async #noteRefused(now: Instant, { code, message, remedy }: Refusal): Promise<void> {
    const { db } = this.#needs;
    const id = await beginRecord(db, {
      ...{ kind: 'backup', backupId: null, beganAt: now, beganBy: 'Bussola', isScheduled: true, file: null }
    });
    if (id === null) return; // another one runs: it stands there itself
    await endRecord(db, id, { state: 'failed', endedAt: now, result: null, problem: { code, message, remedy } });
    this.#tell();
  }

  /** Ends what nobody runs any more, and removes what it left behind. */
  async #endForsaken(seconds: number, now: Instant): Promise<void> {
    for (const { id, file } of await endForsaken(this.#needs.db, seconds, now)) {
      await this.folder.removeWorkOf(id);
      if (file !== null) await this.folder.remove(file);
    }
  }

  #tell(): void {
    this.#needs.changes.tell('backups', {});
  }
}
