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
  readonly onData: (data: Uint8Array) => void;
  readonly resolve: (bytes: number) => void;
  readonly reject: (error: unknown) => void;
}

const sync = Uint8Array.of('S'.charCodeAt(0), 0, 0, 0, 4);
/** Messages after which nothing of a connection is left half done: Sync, simple Query, Terminate, and the first of a connection (no letter). */
const ending = new Set(['S', 'Q', 'X', '\0', 'p'].map((letter) => letter.charCodeAt(0)));

/**
 * Decides whose message PGlite, which has one session for all connections, takes next. A connection keeps its turn from its first message until
 * it is done: to the Sync that ends a statement with parameters, and to the end of its transaction. Without the former, one connection's Bind
 * would meet another's Parse, since both use the session's unnamed statement. Stands in for the queue of `@electric-sql/pglite-socket`, which
 * minds transactions only.
 *
 * @example new PGLiteSocketHandler({ queryQueue: new Turns(db) as never })
 */
export class Turns {
  readonly #db: Backend;
  readonly #onPanic: (message: string) => void;
  /** Set when the database has stopped itself: asked once more, it would spin for ever. */
  #stopped: Error | null = null;
  #waiting: Waiting[] = [];
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

  /** Takes one message of a connection when its turn comes. @returns the bytes that were answered */
  enqueue(connection: number, message: Uint8Array, onData: (data: Uint8Array) => void): Promise<number> {
    return new Promise((resolve, reject) => {
      this.#waiting.push({ connection, message, onData, resolve, reject });
      void this.#work();
    });
  }

  getQueueLength(): number {
    return this.#waiting.length;
  }

  /** Drops what a vanished connection still wanted. */
  clearQueueForHandler(connection: number): void {
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

  async #take({ connection, message, onData }: Waiting): Promise<number> {
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
    this.#halfDone = !ending.has(message[0] ?? 0);
    this.#holder = this.#halfDone || this.#db.isInTransaction() ? connection : null;
    if (taking.vanished && this.#holder !== null) await this.#passOn();
    return bytes;
  }
}

const errorResponse = 'E'.charCodeAt(0);

/** PostgreSQL's words when a message says that it has stopped itself; null for every other message. */
function panicOf(data: Uint8Array): string | null {
  if (data[0] !== errorResponse) return null;
  const fields = Buffer.from(data.buffer, data.byteOffset + 5, Math.max(0, data.byteLength - 5))
    .toString()
    .split('\0');
  if (!fields.includes('VPANIC')) return null;
  return fields.find((field) => field.startsWith('M'))?.slice(1) ?? 'no reason was given';
}
