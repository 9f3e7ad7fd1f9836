// summary_plans
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import { summaryPlanForm, type SummaryPlan } from '$lib/core/summary';
import { after, day, times, type Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** A summary that is sent regularly, as it is stored. */
export interface StoredPlan {
  readonly id: number;
  readonly plan: SummaryPlan;
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
  /** When it is sent next; null while it is off. */
  readonly nextAt: Instant | null;
}

type Row = Omit<StoredPlan, 'plan'> & { readonly definition: unknown };
const columns = `id, definition, version, changed_at as "changedAt", changed_by as "changedBy", next_at as "nextAt"`;
/** What it is called, as far as that can be read. */
function nameIn(definition: unknown): string {
  const name = (definition as { name?: unknown } | null)?.name;
  return typeof name === 'string' ? name : '';
}
const fromRow = ({ definition, ...rest }: Row): StoredPlan => ({
  ...rest,
  plan: readStored(summaryPlanForm, definition, nameIn(definition))
});
const allRows = (db: Queryable): Promise<Row[]> =>
  db.rows<Row>(`select ${columns} from summary_plans order by lower(definition ->> 'name'), id`);

/** All of them by name; one that cannot be read hides no other. */
export const allPlans = async (db: Queryable): Promise<StoredPlan[]> => readableOf(await allRows(db), fromRow);

/** Why some cannot be read. */
export const unreadableSummaryPlans = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await allRows(db), fromRow);

/** @returns null when there is none */
export async function planById(db: Queryable, id: number): Promise<StoredPlan | null> {
  const [row] = await db.rows<Row>(`select ${columns} from summary_plans where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

interface PlanAuthor {
  readonly at: Instant;
  readonly by: string;
}

export const insertPlan = async (
  db: Queryable,
  plan: SummaryPlan,
  nextAt: Instant | null,
  { at, by }: PlanAuthor
): Promise<StoredPlan> =>
  fromRow(
    oneRow(
      await db.rows<Row>(
        `insert into summary_plans (definition, next_at, changed_at, changed_by) values ($1, $2, $3, $4) returning ${columns}`,
        [writeStored(summaryPlanForm, plan), nextAt, at, by]
      )
    )
  );

/** @returns null when it is not of that version any more, or gone */
export async function replacePlan(
  db: Queryable,
  id: number,
  version: number,
  plan: SummaryPlan,
  nextAt: Instant | null,
  { at, by }: PlanAuthor
): Promise<StoredPlan | null> {
  const [row] = await db.rows<Row>(
    `update summary_plans
     set definition = $3, next_at = $4, version = version + 1, changed_at = $5, changed_by = $6
     where id = $1 and version = $2
     returning ${columns}`,
    [id, version, writeStored(summaryPlanForm, plan), nextAt, at, by]
  );
  return row ? fromRow(row) : null;
}

/** @returns whether it was there */
export const deletePlan = async (db: Queryable, id: number): Promise<boolean> =>
  (await db.rows('delete from summary_plans where id = $1 returning id', [id])).length > 0;

/** Those that are due, the longest first. */
export const duePlans = async (db: Queryable, now: Instant): Promise<StoredPlan[]> =>
  readableOf(
    await db.rows<Row>(`select ${columns} from summary_plans where next_at <= $1 order by next_at, id limit 20`, [now]),
    fromRow
  );

/** Those that are due later than any can be, as after a clock that was ahead was set back. */
export const misplacedPlans = async (db: Queryable, now: Instant): Promise<StoredPlan[]> =>
  readableOf(
    await db.rows<Row>(`select ${columns} from summary_plans where next_at > $1 order by id`, [
      after(now, times(longestDays, day))
    ]),
    fromRow
  );
/** No month is longer, with the hours of a changed clock and of another zone. */
const longestDays = 33;

/** Moves one on to its next time, where it is still due as it was. @returns whether it was */
export const moveOn = async (
  db: Queryable,
  { id, version, nextAt }: Pick<StoredPlan, 'id' | 'version' | 'nextAt'>,
  next: Instant
): Promise<boolean> =>
  (
    await db.rows(
      'update summary_plans set next_at = $4 where id = $1 and version = $2 and next_at = $3 returning id',
      [id, version, nextAt, next]
    )
  ).length > 0;
