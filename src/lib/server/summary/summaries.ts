// summaries
import { readableOf, readStored, writeStored } from '$lib/core/forms/stored';
import { summaryForm, type Summary } from '$lib/core/summary';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** A summary as it was sent, or as a link shows it. */
export interface StoredSummary {
  readonly id: number;
  readonly planId: number | null;
  readonly name: string;
  readonly summary: Summary;
  readonly madeAt: Instant;
  readonly madeBy: string;
  /** Until when its link is good; null for one that has none. */
  readonly linkUntil: Instant | null;
  readonly linkNumber: number;
}

type Row = Omit<StoredSummary, 'summary'> & { readonly definition: unknown };
const columns = `id, plan_id as "planId", name, definition, made_at as "madeAt", made_by as "madeBy", link_until as "linkUntil", link_number as "linkNumber"`;
const fromRow = ({ definition, ...rest }: Row): StoredSummary => ({
  ...rest,
  summary: readStored(summaryForm, definition, rest.name)
});

/** @returns null when there is none */
export async function summaryById(db: Queryable, id: number): Promise<StoredSummary | null> {
  const [row] = await db.rows<Row>(`select ${columns} from summaries where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

/** The newest first. */
export const listSummaries = async (db: Queryable, most: number): Promise<StoredSummary[]> =>
  readableOf(
    await db.rows<Row>(`select ${columns} from summaries order by made_at desc, id desc limit $1`, [most]),
    fromRow
  );

/** @returns its id */
export async function insertSummary(
  db: Queryable,
  {
    planId,
    name,
    summary,
    madeAt,
    madeBy,
    linkUntil
  }: Pick<StoredSummary, 'planId' | 'name' | 'summary' | 'madeAt' | 'madeBy' | 'linkUntil'>
): Promise<StoredSummary> {
  return fromRow(
    oneRow(
      await db.rows<Row>(
        `insert into summaries (plan_id, name, definition, made_at, made_by, link_until)
         values ($1, $2, $3, $4, $5, $6)
         returning ${columns}`,
        [planId, name, writeStored(summaryForm, summary), madeAt, madeBy, linkUntil]
      )
    )
  );
}

/** Ends the link of a summary. @returns whether there was one */
export const endLink = async (db: Queryable, id: number): Promise<boolean> =>
  (
    await db.rows(
      'update summaries set link_until = null, link_number = link_number + 1 where id = $1 and link_until is not null returning id',
      [id]
    )
  ).length > 0;

/** Forgets those that were made before an instant. */
export const forgetSummaries = (db: Queryable, before: Instant): Promise<unknown[]> =>
  db.rows('delete from summaries where made_at < $1', [before]);
