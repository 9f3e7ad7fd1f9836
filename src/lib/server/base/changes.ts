import { EventEmitter } from 'node:events';

/** What changed, for whoever shows it: browsers hear of it by server-sent events. */
export interface ChangeMap {
  /** Samples of an account were added. */
  samples: [{ readonly accountId: number }];
  /** An account's health changed. */
  account: [{ readonly accountId: number }];
  /** A series of an alarm changed its state, or something happened to an incident; null for one that no alarm raised. */
  alarm: [{ readonly alarmId: number | null }];
  /** An alarm, a group or a derived metric was made or changed: alarms are judged at once, not with the next samples. Null when it is no alarm. */
  definition: [{ readonly alarmId: number | null }];
  /** A mark was put or taken away, on a board or for all. */
  mark: [{ readonly markId: number; readonly boardId: number | null }];
  /** What an account of OpenMetrics pages reads was changed. Not for browsers. */
  pages: [{ readonly accountId: number }];
  /** A connector was removed or restored. Not for browsers. */
  connectors: [Record<string, never>];
  /** A provider is left alone for so many ms, on behalf of an account: it failed many times on end, or asked for it. Not for browsers. */
  rest: [{ readonly accountId: number; readonly ms: number }];
  /** A session ended before its time. Not for browsers. */
  session: [{ readonly key: string }];
  /** A board was changed. */
  board: [{ readonly boardId: number }];
  /** Routes, rotas, or whoever is notified by them were changed. */
  routing: [Record<string, never>];
  /** A reachability check was made, changed or removed (null then), or another attempt of it ended. */
  reachability: [{ readonly checkId: number | null }];
  /** Bills of an account were read, or came in a file, or rates were changed (null then). */
  costs: [{ readonly accountId: number | null }];
  /** A promise was made, changed or removed. */
  objectives: [Record<string, never>];
  /** Something was done with a resource, or a response was made, changed or removed. */
  responses: [Record<string, never>];
  /** A summary was sent, or one that is sent regularly was made, changed or removed. */
  summaries: [Record<string, never>];
  /** A backup or a rehearsal began, went on or ended, or the schedule was changed. */
  backups: [Record<string, never>];
  /** A follower of changes was made, changed or removed, or was sent some. */
  followers: [Record<string, never>];
  /** A channel was confirmed or a message left. */
  outbox: [{ readonly channelId: number }];
}

/** Of these browsers do not hear. */
const unseen: ReadonlySet<keyof ChangeMap> = new Set(['session', 'pages', 'connectors', 'rest']);

/**
 * Tells of changes and counts them. The count lets a listener that was away for a moment see that it missed some.
 *
 * @example
 * const changes = new Changes();
 * changes.on('samples', ({ accountId }) => …);
 */
export class Changes extends EventEmitter<ChangeMap> {
  #version = 0;
  #spread: ((name: keyof ChangeMap, what: object) => void) | null = null;

  constructor() {
    super();
    this.setMaxListeners(0); // one for each open browser
  }

  /** How many changes there have been since the start of the process. */
  get version(): number {
    return this.#version;
  }

  /** Counts a change, then tells of it: here, and other processes on the database. */
  tell<Name extends keyof ChangeMap>(name: Name, what: ChangeMap[Name][0]): void {
    this.hear(name, what);
    this.#spread?.(name, what);
  }

  /** Counts a change that another process told of, then tells of it here. */
  hear<Name extends keyof ChangeMap>(name: Name, what: ChangeMap[Name][0]): void {
    if (!unseen.has(name)) this.#version++;
    this.emit(name, ...([what] as never));
  }

  /** Tells other processes on the database alone. */
  tellOthers<Name extends keyof ChangeMap>(name: Name, what: ChangeMap[Name][0]): void {
    this.#spread?.(name, what);
  }

  /** Where what is told here goes as well; null for nowhere. */
  spreadBy(spread: ((name: keyof ChangeMap, what: object) => void) | null): void {
    this.#spread = spread;
  }
}
