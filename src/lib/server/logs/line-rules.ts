// line_rules
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import { lineRuleForm, type LineRule, type RuleHits, type RuleInForce } from '$lib/core/logs';
import { Refusal, type Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredLineRule extends RuleInForce {
  readonly createdAt: Instant;
  readonly createdBy: string;
  /** Lines that it left out or masked, and when the last of them arrived. */
  readonly lines: number;
  readonly lastAt: Instant | null;
}

/** Rules that there may be: every line is put through all of them. */
const mostRules = 50;

const columns =
  'id, definition, created_at as "createdAt", created_by as "createdBy", lines::float8 as lines, last_at as "lastAt"';
type Row = Omit<StoredLineRule, 'rule'> & { readonly definition: unknown };
const fromRow = ({ definition, ...rest }: Row): StoredLineRule => ({
  ...rest,
  rule: readStored(lineRuleForm, definition, `${rest.id}`)
});
const allRows = (db: Queryable): Promise<Row[]> => db.rows<Row>(`select ${columns} from line_rules order by id`);

export const lineRules = async (db: Queryable): Promise<StoredLineRule[]> => readableOf(await allRows(db), fromRow);

/** Why some rules cannot be read. */
export const unreadableLineRules = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await allRows(db), fromRow);

/**
 * The rules for lines of an account.
 *
 * @throws Refusal when any rule cannot be read, since nobody knows whose lines it is for: what it would mask is not stored without it
 */
export const rulesFor = async (db: Queryable, accountId: number): Promise<RuleInForce[]> =>
  (await allRows(db))
    .map(fromRow)
    .filter(({ rule: { account } }) => account === null || account === accountId)
    .map(({ id, rule }) => ({ id, rule }));

/** Counts what rules did. */
export async function noteHits(db: Queryable, hits: RuleHits, at: Instant): Promise<void> {
  for (const [id, lines] of Object.entries(hits))
    await db.rows('update line_rules set lines = lines + $2, last_at = $3 where id = $1', [Number(id), lines, at]);
}

/** Adds a rule, for lines that arrive from now on. @throws Refusal when there are too many, or no such account */
export async function addLineRule({ db, clock }: Context, rule: LineRule, by: string): Promise<StoredLineRule> {
  return db.transaction(async (within) => {
    await within.rows('lock table line_rules in share row exclusive mode');
    const { count } = oneRow(await within.rows<{ count: number }>('select count(*)::integer as count from line_rules'));
    if (count >= mostRules)
      throw new Refusal('invalid', `There are ${mostRules} rules, which is the most.`, 'Remove one first.');
    if (
      rule.account !== null &&
      (await within.rows('select 1 from accounts where id = $1', [rule.account])).length === 0
    )
      throw new Refusal('invalid', 'There is no such account.', 'Choose one, or all accounts.', { path: ['account'] });
    return fromRow(
      oneRow(
        await within.rows<Row>(
          `insert into line_rules (definition, created_at, created_by) values ($1, $2, $3) returning ${columns}`,
          [writeStored(lineRuleForm, rule), clock.now(), by]
        )
      )
    );
  });
}

/** Removes a rule: lines that arrive from now on are stored without it. @throws Refusal `not-found` */
export async function removeLineRule({ db }: Pick<Context, 'db'>, id: number): Promise<void> {
  if ((await db.rows('delete from line_rules where id = $1 returning id', [id])).length === 0)
    throw new Refusal('not-found', 'There is no such rule.', 'Somebody may have removed it.');
}
