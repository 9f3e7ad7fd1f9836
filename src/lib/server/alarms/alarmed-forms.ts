// budgets, objectives: definitions of people that an alarm of their own follows
import type { AlarmDefinition } from '$lib/core/alarm';
import { readableOf, readStored, unreadableOf, writeStored, type StoredForm } from '$lib/core/forms/stored';
import { Refusal, type Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { changedMeanwhile } from '../base/changed-meanwhile';
import type { Context } from '../db/context';
import { oneRow, type Queryable } from '../db/pool';
import { routeById } from '../routing/routes';
import { alarmById, removeAlarm } from './alarms';
import { storeAlarm } from './save-alarm';

/** A definition as it is stored. */
export interface Alarmed<Value> {
  readonly id: number;
  readonly value: Value;
  /** Rises with each change. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
  readonly alarmId: number | null;
}

export interface Author {
  readonly at: Instant;
  readonly by: string;
}

/** What an alarm says of itself: the words that suit, unless people wrote others. @param formerly the words that suited before */
export const keptWords = (words: string, before: AlarmDefinition | null, formerly: string | null): string =>
  before === null || before.about === '' || before.about === formerly ? words : before.about;

/** A kind of definition. */
export interface AlarmedKind<Value> {
  readonly table: 'budgets' | 'objectives';
  readonly form: StoredForm<Value>;
  /** One and several, within a sentence. */
  readonly one: string;
  readonly several: string;
  /** How many there may be. */
  readonly most: number;
  /** Where people find them. */
  readonly page: string;
  /**
   * The alarm that follows; null for none.
   *
   * @param before what the alarm is now
   * @param formerly what the definition was before
   */
  alarmOf(id: number, value: Value, before: AlarmDefinition | null, formerly: Value | null): AlarmDefinition | null;
  /** Tells pages that one changed. */
  tell(changes: Context['changes']): void;
}

const columns = `id, definition, version, changed_at as "changedAt", changed_by as "changedBy", alarm_id as "alarmId"`;
type Row = Omit<Alarmed<never>, 'value'> & { readonly definition: unknown };

/** Definitions of one kind, each with its alarm: both are written in one transaction. */
export class AlarmedForms<Value extends { readonly route: number | null }> {
  readonly #kind: AlarmedKind<Value>;

  constructor(kind: AlarmedKind<Value>) {
    this.#kind = kind;
  }

  /** All that can be read, by name. */
  async all(db: Queryable): Promise<Alarmed<Value>[]> {
    return readableOf(await this.#rows(db), this.#read);
  }

  /** Why some cannot be read. */
  async unreadable(db: Queryable): Promise<Problem[]> {
    return unreadableOf(await this.#rows(db), this.#read);
  }

  /** @returns null when there is none */
  async byId(db: Queryable, id: number): Promise<Alarmed<Value> | null> {
    const [row] = await db.rows<Row>(`select ${columns} from ${this.#kind.table} where id = $1`, [id]);
    return row ? this.#read(row) : null;
  }

  /** Adds one with its alarm. @throws Refusal `invalid` when there are too many, `route-missing` */
  async add({ db, clock, changes }: Context, value: Value, by: string): Promise<Alarmed<Value>> {
    const { table, most, several } = this.#kind;
    const made = await db.transaction(async (within) => {
      await within.rows(`lock table ${table} in share row exclusive mode`);
      if ((await this.#rows(within)).length >= most)
        throw new Refusal('invalid', `There are ${most} ${several}, which is the most.`, 'Remove one first.');
      return this.insert(within, value, { at: clock.now(), by });
    });
    this.#tell(changes, made);
    return made;
  }

  /** Adds one with its alarm; to be called in a transaction. */
  async insert(within: Queryable, value: Value, author: Author): Promise<Alarmed<Value>> {
    const { table, form } = this.#kind;
    const [definition, at, by] = [writeStored(form, value as Value & object), author.at, author.by];
    const row = oneRow(
      await within.rows<Row>(
        `insert into ${table} (definition, changed_at, changed_by) values ($1, $2, $3) returning ${columns}`,
        [definition, at, by]
      )
    );
    return this.#withAlarm(within, this.#read(row), null, author);
  }

  /**
   * Changes one and its alarm.
   *
   * @param version of the one that whoever changes it has seen
   * @throws Refusal `not-found`, `changed-meanwhile`, `route-missing`
   */
  async save(
    { db, clock, changes }: Context,
    id: number,
    version: number,
    value: Value,
    by: string
  ): Promise<Alarmed<Value>> {
    const { table, form, one } = this.#kind;
    const author = { at: clock.now(), by };
    const saved = await db.transaction(async (within) => {
      const before = await this.byId(within, id);
      const [row] = await within.rows<Row>(
        `update ${table} set definition = $3, version = version + 1, changed_at = $4, changed_by = $5
         where id = $1 and version = $2
         returning ${columns}`,
        [id, version, writeStored(form, value as Value & object), author.at, author.by]
      );
      return row === undefined ? null : this.#withAlarm(within, this.#read(row), before?.value ?? null, author);
    });
    if (saved === null) throw changedMeanwhile(await this.byId(db, id), one, () => this.missing());
    this.#tell(changes, saved);
    return saved;
  }

  /** Removes one with its alarm; its incidents stay in the history. @throws Refusal `not-found` */
  async remove({ db, clock, changes }: Context, id: number): Promise<void> {
    const removed = await db.transaction(async (within) => {
      const [row] = await within.rows<{ alarmId: number | null }>(
        `delete from ${this.#kind.table} where id = $1 returning alarm_id as "alarmId"`,
        [id]
      );
      if (row !== undefined && row.alarmId !== null) await removeAlarm(within, row.alarmId, clock.now());
      return row ?? null;
    });
    if (removed === null) throw this.missing();
    this.#kind.tell(changes);
    if (removed.alarmId !== null) changes.tell('alarm', { alarmId: removed.alarmId });
  }

  /** That there is none. */
  missing(): Refusal {
    return new Refusal('not-found', `There is no such ${this.#kind.one}.`, `See the page ${this.#kind.page}.`);
  }

  /** Makes the alarm, or brings it up to date; one that was removed is made anew, and one that is not to be any more is removed. */
  async #withAlarm(
    within: Queryable,
    stored: Alarmed<Value>,
    formerly: Value | null,
    { at, by }: Author
  ): Promise<Alarmed<Value>> {
    const { id, value, alarmId } = stored;
    if (value.route !== null && (await routeById(within, value.route)) === null)
      throw new Refusal(
        'route-missing',
        `The route that this ${this.#kind.one} names no longer exists.`,
        'Choose another, or leave it to the list of routes.',
        { path: ['route'] }
      );
    const known = alarmId === null ? null : await alarmById(within, alarmId);
    const definition = this.#kind.alarmOf(id, value, known?.definition ?? null, formerly);
    if (definition === null) {
      if (known !== null) await removeAlarm(within, known.id, at);
      if (alarmId !== null) await this.#noteAlarm(within, id, null);
      return { ...stored, alarmId: null };
    }
    const alarm = await storeAlarm(within, known?.id ?? null, definition, by, at);
    if (alarm.id !== alarmId) await this.#noteAlarm(within, id, alarm.id);
    return { ...stored, alarmId: alarm.id };
  }

  async #noteAlarm(within: Queryable, id: number, alarmId: number | null): Promise<void> {
    await within.rows(`update ${this.#kind.table} set alarm_id = $2 where id = $1`, [id, alarmId]);
  }

  #tell(changes: Context['changes'], { alarmId }: Alarmed<Value>): void {
    this.#kind.tell(changes);
    if (alarmId !== null) changes.tell('definition', { alarmId });
  }

  #rows(db: Queryable): Promise<Row[]> {
    return db.rows<Row>(`select ${columns} from ${this.#kind.table} order by lower(definition ->> 'name'), id`);
  }

  readonly #read = ({ definition, ...rest }: Row): Alarmed<Value> => ({
    ...rest,
    value: readStored(this.#kind.form, definition, `${rest.id}`)
  });
}
