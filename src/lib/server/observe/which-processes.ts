import { hostname } from 'node:os';
import { instant, type Instant } from '$lib/core/time';
import { countOf } from '$lib/core/words/count';
import type { Config } from '../base/config';
import { version } from '../base/version';
import type { Queryable } from '../db/pool';
import { accountDuty, type Duties } from '../duties/duties';
import { listProcesses, type Role } from '../duties/processes';
import { allAccounts } from '../inventory/accounts';

/** A process as people read it. */
export interface ShownProcess {
  /** What it is called among several. */
  readonly instance: string;
  readonly role: Role;
  readonly version: string;
  readonly host: string;
  readonly startedAt: Instant;
  readonly seenAt: Instant;
  /** Whether it was seen within the last seconds; one that was not ended without a word. */
  readonly lives: boolean;
  /** Whether it is the one that answers. */
  readonly answers: boolean;
  /** Names of accounts that it reads. */
  readonly accounts: readonly string[];
  /** What else of the work it does now. */
  readonly does: readonly string[];
}

/** When this process began, ms since the epoch. */
const beganAt = instant(Math.round(performance.timeOrigin));

/**
 * Which processes work on the database, and what each does: those that live, and those that ended without a word within the last hour.
 *
 * @example (await whichProcesses(bussola())).map(({ instance }) => instance) // ['front', 'night', 'noon']
 */
export async function whichProcesses({
  db,
  config,
  duties
}: {
  readonly db: Queryable;
  readonly config: Pick<Config, 'instance' | 'role'>;
  readonly duties: Pick<Duties, 'id' | 'engines'>;
}): Promise<ShownProcess[]> {
  const accounts = await allAccounts(db);
  if (duties.engines() === null)
    return [
      {
        ...{ ...config, version, host: hostname(), startedAt: beganAt, seenAt: beganAt, lives: true, answers: true },
        ...{ instance: config.instance, role: config.role, accounts: accounts.map(({ name }) => name), does: [] }
      }
    ];
  const names = new Map(accounts.map(({ id, name }) => [accountDuty(id), name]));
  const held = await db.rows<{ name: string; holder: string }>(
    'select name, holder from duties where holder is not null order by name'
  );
  return (await listProcesses(db)).map(({ id, instance, role, version: its, host, startedAt, seenAt, lives }) => {
    const own = lives ? held.filter(({ holder }) => holder === id).map(({ name }) => name) : [];
    return {
      ...{ instance, role, version: its, host, lives, answers: id === duties.id },
      ...{ startedAt: startedAt as Instant, seenAt: seenAt as Instant },
      accounts: own.flatMap((name) => names.get(name) ?? []),
      does: own.filter((name) => !names.has(name) && !name.startsWith('account '))
    };
  });
}

/** What is wrong with the processes on the database, for whoever looks at Watch: nothing is judged where no engine works, and one that ended without a word may be missed. */
export async function processFaults(
  db: Queryable,
  duties: Pick<Duties, 'engines'>
): Promise<{ readonly what: string; readonly why: string }[]> {
  const engines = duties.engines();
  if (engines === null) return [];
  if (engines.length === 0)
    return [
      {
        what: 'No engine works',
        why: 'nothing is collected, judged or sent: start a process whose BUSSOLA_ROLE is engine or all'
      }
    ];
  return (await listProcesses(db))
    .filter(({ lives, role }) => !lives && role !== 'web')
    .map(({ instance, host }) => ({
      what: `The engine ${instance} on ${host} ended without a word`,
      why: `${countOf(engines.length, 'other engine')} took its work over: start it again, or see its log`
    }));
}
