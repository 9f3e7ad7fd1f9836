// alarms, boards, board_folders, channels, routes, rotas, incidents, accounts, keys, people, teams, marks, outbox, signals, groups, derived, shelvings, line_rules, event_rules, reachability_checks, connectors, budgets, objectives, responses, summary_plans, summaries, resources, followers
import type { Queryable } from '../db/pool';

/** What things are called, by the first part of their addresses. */
const names: Readonly<Record<string, string>> = {
  alarms: 'select name from alarms where id = $1',
  boards: 'select title as name from boards where id = $1',
  folders: 'select name from board_folders where id = $1',
  channels: 'select name from channels where id = $1',
  routes: "select definition ->> 'name' as name from routes where id = $1",
  rotas: "select definition ->> 'name' as name from rotas where id = $1",
  overrides:
    "select definition ->> 'name' as name from rotas join rota_overrides on rota_id = rotas.id where rota_overrides.id = $1",
  swaps:
    "select definition ->> 'name' as name from rotas join rota_swaps on rota_id = rotas.id where rota_swaps.id = $1",
  incidents:
    "select alarm_name || coalesce(' on ' || (labels ->> 'resource'), '') as name from incidents where id = $1",
  connectors: 'select name from connectors where id = $1',
  accounts: 'select name from accounts where id = $1',
  receive: 'select name from keys where id = $1',
  people: 'select display_name as name from people where id = $1',
  teams: 'select name from teams where id = $1',
  marks: 'select text as name from marks where id = $1',
  outbox: 'select subject as name from outbox where id = $1',
  signals: 'select name from signals where id = $1',
  groups: 'select name from groups where id = $1',
  derived: 'select name from derived where id = $1',
  'event-rules': "select definition ->> 'name' as name from event_rules where id = $1",
  objectives: "select definition ->> 'name' as name from objectives where id = $1",
  responses: "select definition ->> 'name' as name from responses where id = $1",
  'summary-plans': "select definition ->> 'name' as name from summary_plans where id = $1",
  summaries: 'select name from summaries where id = $1',
  resources: 'select name from resources where id = $1',
  budgets: "select definition ->> 'name' as name from budgets where id = $1",
  checks: "select definition ->> 'name' as name from reachability_checks where id = $1",
  'line-rules': "select definition ->> 'name' as name from line_rules where id = $1",
  followers: 'select name from channels join followers on channel_id = channels.id where followers.id = $1',
  shelvings: "select definition ->> 'reason' as name from shelvings where id = $1"
};

/** Those that have a page of their own. */
const withPage = new Set([
  'resources',
  'responses',
  'event-rules',
  'checks',
  'alarms',
  'boards',
  'incidents',
  'accounts',
  'connectors',
  'groups'
]);

/** What something is called, and its page. */
export interface Subject {
  readonly subject: string;
  readonly path: string;
  /** Null where nothing is there. */
  readonly id: number | null;
}

/** Nothing in particular. */
export const noSubject: Subject = { subject: '', path: '', id: null };

/**
 * What something is called now, by its kind and id; empty for what is not there.
 *
 * @param kind the first part of its address, such as `rotas`
 * @example await subjectOf(db, 'rotas', 3) // { subject: 'Bridge watch', path: '', id: 3 }
 */
export async function subjectOf(db: Queryable, kind: string, id: number): Promise<Subject> {
  const query = Object.hasOwn(names, kind) ? names[kind] : undefined;
  if (query === undefined || !Number.isSafeInteger(id) || id < 1 || id > 2_147_483_647) return noSubject;
  const [row] = await db.rows<{ name: string | null }>(query, [id]);
  if (row === undefined) return noSubject;
  return { subject: row.name ?? '', path: withPage.has(kind) ? `/${kind}/${id}` : '', id };
}

/** The kinds whose names are known. */
export const namedKinds: readonly string[] = Object.keys(names);
