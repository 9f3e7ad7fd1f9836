// event_rules
import { eventRuleForm, type EventRule } from '$lib/core/events';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredEventRule {
  readonly id: number;
  readonly rule: EventRule;
  /** Rises with each change. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

const columns = `id, definition, version, changed_at as "changedAt", changed_by as "changedBy"`;
type Row = Omit<StoredEventRule, 'rule'> & { readonly definition: unknown };
const fromRow = ({ definition, ...rest }: Row): StoredEventRule => ({
  ...rest,
  rule: readStored(eventRuleForm, definition, `${rest.id}`)
});
const allRows = (db: Queryable): Promise<Row[]> =>
  db.rows<Row>(`select ${columns} from event_rules where removed_at is null order by id`);

/** Every rule that can be read. */
export const allEventRules = async (db: Queryable): Promise<StoredEventRule[]> =>
  readableOf(await allRows(db), fromRow);

/** Why some rules cannot be read. */
export const unreadableEventRules = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await allRows(db), fromRow);

/** Rules of some ids, also those that were removed: what they raised is still theirs. */
export async function eventRulesByIds(
  db: Queryable,
  ids: readonly number[]
): Promise<ReadonlyMap<number, StoredEventRule>> {
  const rows = await db.rows<Row>(`select ${columns} from event_rules where id = any($1::integer[])`, [ids]);
  return new Map(readableOf(rows, fromRow).map((one) => [one.id, one]));
}

/** @returns null when there is none, or it was removed */
export async function eventRuleById(db: Queryable, id: number): Promise<StoredEventRule | null> {
  const [row] = await db.rows<Row>(`select ${columns} from event_rules where id = $1 and removed_at is null`, [id]);
  return row ? fromRow(row) : null;
}

interface Author {
  readonly at: Instant;
  readonly by: string;
}

export const insertEventRule = async (db: Queryable, rule: EventRule, { at, by }: Author): Promise<StoredEventRule> =>
  fromRow(
    oneRow(
      await db.rows<Row>(
        `insert into event_rules (definition, changed_at, changed_by) values ($1, $2, $3) returning ${columns}`,
        [writeStored(eventRuleForm, rule), at, by]
      )
    )
  );

/** @returns null when it is not of that version any more, or gone */
export async function replaceEventRule(
  db: Queryable,
  id: number,
  version: number,
  rule: EventRule,
  { at, by }: Author
): Promise<StoredEventRule | null> {
  const [row] = await db.rows<Row>(
    `update event_rules
     set definition = $3, version = version + 1, changed_at = $4, changed_by = $5
     where id = $1 and version = $2 and removed_at is null
     returning ${columns}`,
    [id, version, writeStored(eventRuleForm, rule), at, by]
  );
  return row ? fromRow(row) : null;
}

/** @returns whether it was there */
export const markEventRuleRemoved = async (db: Queryable, id: number, at: Instant): Promise<boolean> =>
  (await db.rows('update event_rules set removed_at = $2 where id = $1 and removed_at is null returning id', [id, at]))
    .length > 0;
