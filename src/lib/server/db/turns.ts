/** The part of PGlite that turns need. */
export interface Backend {
  isInTransaction(): boolean;
  runExclusive<T>(work: () => Promise<T>): Promise<T>;
  execProtocolRawStream(message: Uint8Array, options: { onRawData: (data: Uint8Array) => void }): Promise<void>;
  exec(statement: string): Promise<unknown>;
}

interface Waiting {
  readonly connection: number;
  readonly message: Uint8Array;
  /** The letter of the last message in it. */
  readonly last: number;
  readonly onData: (data: Uint8Array) => void;
  readonly resolve: (bytes: number) => void;
  readonly reject: (error: unknown) => void;
}

const codesOf = (letters: readonly string[]): ReadonlySet<number> =>
  new Set(letters.map((letter) => letter.charCodeAt(0)));
const sync = Uint8Array.of('S'.charCodeAt(0), 0, 0, 0, 4);
/** Parts of a statement with parameters that wait for its Sync: Parse, Bind, Describe, Execute, Close. */
const parts = codesOf(['P', 'B', 'D', 'E', 'C']);
/** Messages after which nothing of a connection is left half done: Sync, simple Query, Terminate, and the first of a connection (no letter). */
const ending = codesOf(['S', 'Q', 'X', '\0', 'p']);

/**
 * Decides whose message PGlite, which has one session for all connections, takes next. The parts of a statement with parameters are put by until the Sync that ends
 * it, and taken together: each step into the database costs time, and one connection's Bind must not meet another's Parse, since both use the session's unnamed
 * statement. A connection keeps its turn to the end of its transaction. Stands in for the queue of `@electric-sql/pglite-socket`, which minds transactions only.
 *
 * @example new PGLiteSocketHandler({ queryQueue: new Turns(db) as never })
 */
export class Turns {
  readonly #db: Backend;
  readonly #onPanic: (message: string) => void;
  /** Set when the database has stopped itself: asked once more, it would spin for ever. */
  #stopped: Error | null = null;
  #waiting: Waiting[] = [];
  /** What connections have sent of statements that their Sync has not ended yet. */
  readonly #begun = new Map<number, Uint8Array[]>();
  #busy = false;
  /** Whose turn it is; null when nothing is half done. */
  #holder: number | null = null;
  #halfDone = false;
  /** Whose message is being taken, and whether it vanished meanwhile. */
  #taking: { readonly connection: number; vanished: boolean } | null = null;

  /** @param onPanic called once, with PostgreSQL's words, when the database has stopped itself, as it does when its log cannot be written */
  constructor(db: Backend, onPanic: (message: string) => void = () => undefined) {
    this.#db = db;
    this.#onPanic = onPanic;
  }

  /** Takes one message of a connection when its turn comes, and with it what was put by. @returns the bytes that were answered; 0 for what is put by */
  enqueue(connection: number, sent: Uint8Array, onData: (data: Uint8Array) => void): Promise<number> {
    const begun = this.#begun.get(connection) ?? [];
    if (parts.has(sent[0] ?? 0)) {
      this.#begun.set(connection, [...begun, sent]);
      return Promise.resolve(0);
    }
    this.#begun.delete(connection);
    const message = begun.length === 0 ? sent : Buffer.concat([...begun, sent]);
    return new Promise((resolve, reject) => {
      this.#waiting.push({ connection, message, last: sent[0] ?? 0, onData, resolve, reject });
      void this.#work();
    });
  }

  getQueueLength(): number {
    return this.#waiting.length;
  }

  /** Drops what a vanished connection still wanted. */
  clearQueueForHandler(connection: number): void {
    this.#begun.delete(connection);
    const dropped = this.#waiting.filter((one) => one.connection === connection);
    this.#waiting = this.#waiting.filter((one) => one.connection !== connection);
    for (const { reject } of dropped) reject(new Error('The connection was closed.'));
  }

  /** Ends what a vanished connection left half done, and passes the turn on. */
  async clearTransactionIfNeeded(connection: number): Promise<void> {
    if (this.#taking?.connection === connection)
      this.#taking.vanished = true; // ended once its message has been taken
    else if (this.#holder === connection) await this.#passOn();
  }

  async #passOn(): Promise<void> {
    if (this.#stopped !== null) return;
    await this.#db.runExclusive(async () => {
      if (this.#halfDone) await this.#db.execProtocolRawStream(sync, { onRawData: () => undefined });
    });
    if (this.#db.isInTransaction()) await this.#db.exec('rollback');
    this.#holder = null;
    this.#halfDone = false;
    void this.#work();
  }

  async #work(): Promise<void> {
    if (this.#busy) return;
    this.#busy = true;
    for (let next = this.#next(); next; next = this.#next()) {
      try {
        next.resolve(await this.#take(next));
      } catch (error) {
        next.reject(error);
      }
    }
    this.#busy = false;
  }

  #next(): Waiting | undefined {
    const index = this.#holder === null ? 0 : this.#waiting.findIndex(({ connection }) => connection === this.#holder);
    return index === -1 ? undefined : this.#waiting.splice(index, 1)[0];
  }

  async #take({ connection, message, last, onData }: Waiting): Promise<number> {
    if (this.#stopped !== null) throw this.#stopped;
    let bytes = 0;
    const taking = (this.#taking = { connection, vanished: false });
    const onRawData = (data: Uint8Array) => {
      bytes += data.length;
      const panic = panicOf(data);
      if (panic !== null && this.#stopped === null) {
        this.#stopped = new Error(`The database has stopped: ${panic}`);
        this.#onPanic(panic);
      }
      onData(data);
    };
    try {
      await this.#db.runExclusive(() => this.#db.execProtocolRawStream(message, { onRawData }));
    } finally {
      this.#taking = null;
    }
    this.#halfDone = !ending.has(last);
    this.#holder = this.#halfDone || this.#db.isInTransaction() ? connection : null;
    if (taking.vanished && this.#holder !== null) await this.#passOn();
    return bytes;
  }
}

const panicWord = Buffer.from('\0VPANIC\0');

/** PostgreSQL's words when an answer says that it has stopped itself; null for every other. A NUL stands in no text of a row, so the word is that of an error. */
function panicOf(data: Uint8Array): string | null {
  const bytes = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  const at = bytes.indexOf(panicWord);
  if (at === -1) return null;
  const fields = bytes.toString('utf8', at).split('\0');
  return fields.find((field) => field.startsWith('M'))?.slice(1) ?? 'no reason was given';
}
