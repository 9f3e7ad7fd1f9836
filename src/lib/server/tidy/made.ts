// alarms, boards, board_folders, budgets, channels, reachability_checks, derived, event_rules, groups, marks, objectives, responses, rotas, routes, signals, summary_plans, line_rules, teams: read only
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Something that somebody made. */
export interface Made {
  /** The first part of its address, such as `boards`. */
  readonly kind: string;
  readonly id: number;
  readonly name: string;
  readonly at: Instant;
}

/** What is asked for. */
export interface MadeAsked {
  /** What whoever made it is called. */
  readonly by: string;
  readonly since: Instant;
  /** A part of its name, or a label of it such as `trial` or `team=quay`; empty for all. */
  readonly text: string;
  /** Who asks: private boards of others are not listed. */
  readonly readerId: number;
}

const inDefinition = `definition ->> 'name'`;
/** Of each kind: its table, its name, its labels as text, and when and by whom it was made; where that is not stored, when it was changed last. */
const kinds: readonly (readonly [
  kind: string,
  table: string,
  name: string,
  labels: string,
  at: 'created' | 'changed'
])[] = [
  [
    'alarms',
    'alarms',
    'name',
    `(select string_agg(key || '=' || value, ' ') from jsonb_each_text(coalesce(definition -> 'labels', '{}')))`,
    'created'
  ],
  ['boards', 'boards', 'title', `''`, 'created'],
  ['folders', 'board_folders', 'name', `''`, 'created'],
  ['budgets', 'budgets', inDefinition, `''`, 'changed'],
  ['channels', 'channels', 'name', `''`, 'created'],
  ['checks', 'reachability_checks', inDefinition, `''`, 'changed'],
  ['connectors', 'connectors', 'name', `''`, 'changed'],
  ['derived', 'derived', 'name', `''`, 'created'],
  ['event-rules', 'event_rules', inDefinition, `''`, 'changed'],
  ['followers', 'followers', '(select name from channels where id = channel_id)', `''`, 'changed'],
  ['groups', 'groups', 'name', `''`, 'created'],
  ['marks', 'marks', 'text', `''`, 'created'],
  ['objectives', 'objectives', inDefinition, `''`, 'changed'],
  ['responses', 'responses', inDefinition, `''`, 'changed'],
  ['rotas', 'rotas', inDefinition, `''`, 'created'],
  ['routes', 'routes', inDefinition, `''`, 'created'],
  ['signals', 'signals', 'name', `''`, 'created'],
  ['summary-plans', 'summary_plans', inDefinition, `''`, 'changed'],
  ['line-rules', 'line_rules', inDefinition, `''`, 'created'],
  ['teams', 'teams', 'name', `''`, 'created']
];

/** The kinds that are listed, by the first part of their addresses. */
export const kindsOfMade: readonly string[] = kinds.map(([kind]) => kind);

const columnsOf = (table: string, at: 'created' | 'changed'): readonly [at: string, by: string] =>
  table === 'marks' ? ['made_at', 'made_by'] : [`${at}_at`, `${at}_by`];

/** What is not there any more, follows something else, or is nobody else's business. */
const conditions: Readonly<Record<string, string>> = {
  // The alarm of a budget or promise goes with it.
  alarms: `removed_at is null
    and not exists (select from budgets where alarm_id = alarms.id) and not exists (select from objectives where alarm_id = alarms.id)`,
  event_rules: 'removed_at is null',
  boards: `(reach <> 'private' or owner_id = $4)`,
  channels: 'person_id is null and topic_id is null',
  marks: 'board_id is null'
};

/**
 * What somebody made and is still there, the newest first: of kinds whose makers are not stored, what they changed last.
 *
 * @param most of the list
 * @example await madeBy(db, { by: 'Kaja Tamm', since, text: 'trial', readerId: 1 }, 500)
 */
export function madeBy(db: Queryable, { by, since, text, readerId }: MadeAsked, most: number): Promise<Made[]> {
  const parts = kinds.map(([kind, table, name, labels, of]) => {
    const [at, maker] = columnsOf(table, of);
    return `select '${kind}' as kind, id, coalesce(${name}, '') as name, ${at} as at
      from ${table}
      where ${maker} = $1 and ${at} >= $2 and position($3 in lower(coalesce(${name}, '') || ' ' || coalesce(${labels}, ''))) > 0
        and ${conditions[table] ?? '$4::integer is not null'}`;
  });
  return db.rows<Made>(
    `select * from (${parts.join(' union all ')}) as made order by at desc, kind, id limit ${Math.trunc(most)}`,
    [by, since, text.trim().toLowerCase(), readerId]
  );
}
