// all incidents that are open, as pages need them
import type { Severity } from '$lib/core/alarm';
import type { Relatable } from '$lib/core/incident';
import type { Changes } from '../base/changes';
import type { Queryable } from '../db/pool';
import { incidentRows } from './incidents';
import { countOpenByService, gravestListedFirst, type ServiceCount } from './open';

/** What is known of each open incident: enough to find those that belong together. */
export interface OpenIncident extends Relatable {
  readonly service: string;
  readonly severity: Severity;
}

export interface OpenNow {
  /** The most urgent first: those that nobody looks after, of these the gravest, of these the oldest; at most {@link mostKnown}. */
  readonly incidents: readonly OpenIncident[];
  /** How many are open on each service; all of them. */
  readonly counts: readonly ServiceCount[];
}

/** Open incidents that are known one by one; more are counted only. */
export const mostKnown = 5000;
/** From so many on, what was read is used again: fewer are read anew each time. */
const fromSoMany = 200;
/** How long what was read is used again at most, ms of real time: another process changes incidents too. */
const usedForMs = 1000;

/**
 * Reads which incidents are open. In a storm each page would read thousands: then what was read serves everybody until something changes, for a second at most.
 *
 * @example const { incidents, counts } = await openNow.read();
 */
export class OpenNowReader {
  readonly #db: Queryable;
  readonly #changes: Changes;
  readonly #most: number;
  readonly #clock: () => number;
  #last: { readonly version: number; readonly at: number; readonly read: Promise<OpenNow> } | null = null;

  /** @param clock real time that never jumps, ms */
  constructor(db: Queryable, changes: Changes, most = mostKnown, clock: () => number = () => performance.now()) {
    this.#db = db;
    this.#changes = changes;
    this.#most = most;
    this.#clock = clock;
  }

  async read(): Promise<OpenNow> {
    const { version } = this.#changes; // before reading, so that what changes meanwhile is seen to be missed
    const at = this.#clock();
    const last = this.#last;
    if (last?.version === version && at - last.at < usedForMs) {
      const open = await last.read;
      if (open.incidents.length >= fromSoMany) return open;
    }
    const read = readOpen(this.#db, this.#most);
    this.#last = { version, at, read };
    try {
      return await read;
    } catch (error) {
      if (this.#last.read === read) this.#last = null; // whoever asks next has another try
      throw error;
    }
  }
}

async function readOpen(db: Queryable, most: number): Promise<OpenNow> {
  const incidents = await db.rows<OpenIncident>(
    `select id, account, resource, service, severity, "openedAt"
     from (${incidentRows} where incidents.ended_at is null) as open
     order by ${gravestListedFirst}
     limit $1`,
    [most]
  );
  const counts = incidents.length < most ? countsOf(incidents) : await countOpenByService(db);
  return { incidents, counts };
}

function countsOf(incidents: readonly OpenIncident[]): ServiceCount[] {
  const counts = new Map<string, ServiceCount>();
  for (const { service, severity } of incidents) {
    const key = `${severity} ${service}`;
    counts.set(key, { service, severity, count: (counts.get(key)?.count ?? 0) + 1 });
  }
  return [...counts.values()];
}
