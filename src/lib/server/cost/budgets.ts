// budgets
import { budgetForm, type Budget } from '$lib/core/cost';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredBudget {
  readonly id: number;
  readonly budget: Budget;
  /** Rises with each change. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
  readonly alarmId: number | null;
}

const columns = `id, definition, version, changed_at as "changedAt", changed_by as "changedBy", alarm_id as "alarmId"`;
type Row = Omit<StoredBudget, 'budget'> & { readonly definition: unknown };
const fromRow = ({ definition, ...rest }: Row): StoredBudget => ({
  ...rest,
  budget: readStored(budgetForm, definition, `${rest.id}`)
});
const allRows = (db: Queryable): Promise<Row[]> =>
  db.rows<Row>(`select ${columns} from budgets order by lower(definition ->> 'name'), id`);

/** Every budget that can be read, by name. */
export const allBudgets = async (db: Queryable): Promise<StoredBudget[]> => readableOf(await allRows(db), fromRow);

/** Why some budgets cannot be read. */
export const unreadableBudgets = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

/** @returns null when there is none */
export async function budgetById(db: Queryable, id: number): Promise<StoredBudget | null> {
  const [row] = await db.rows<Row>(`select ${columns} from budgets where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

interface Author {
  readonly at: Instant;
  readonly by: string;
}

export const insertBudget = async (db: Queryable, budget: Budget, { at, by }: Author): Promise<StoredBudget> =>
  fromRow(
    oneRow(
      await db.rows<Row>(
        `insert into budgets (definition, changed_at, changed_by) values ($1, $2, $3) returning ${columns}`,
        [writeStored(budgetForm, budget), at, by]
      )
    )
  );

/** @returns null when it is not of that version any more, or gone */
export async function replaceBudget(
  db: Queryable,
  id: number,
  version: number,
  budget: Budget,
  { at, by }: Author
): Promise<StoredBudget | null> {
  const [row] = await db.rows<Row>(
    `update budgets set definition = $3, version = version + 1, changed_at = $4, changed_by = $5
     where id = $1 and version = $2
     returning ${columns}`,
    [id, version, writeStored(budgetForm, budget), at, by]
  );
  return row ? fromRow(row) : null;
}

/** Says which alarm is raised by a budget. */
export async function noteBudgetAlarm(db: Queryable, id: number, alarmId: number): Promise<void> {
  await db.rows('update budgets set alarm_id = $2 where id = $1', [id, alarmId]);
}

/** @returns what it was; null when there was none */
export async function deleteBudget(db: Queryable, id: number): Promise<Pick<StoredBudget, 'alarmId'> | null> {
  const [row] = await db.rows<Pick<StoredBudget, 'alarmId'>>(
    'delete from budgets where id = $1 returning alarm_id as "alarmId"',
    [id]
  );
  return row ?? null;
}
