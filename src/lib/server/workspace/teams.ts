// teams, team_members, team_boards; alarms and rotas, which name their team
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import { isTaken, oneRow, type Queryable } from '../db/pool';

/** People who own alarms, rotas and boards together. */
export interface Team {
  readonly id: number;
  readonly name: string;
  readonly memberIds: readonly number[];
  readonly alarms: readonly { readonly id: number; readonly name: string }[];
  readonly boards: readonly { readonly id: number; readonly name: string }[];
  readonly rotas: readonly { readonly id: number; readonly name: string }[];
}

const listed = (from: string, name: string): string =>
  `(select coalesce(json_agg(json_build_object('id', one.id, 'name', ${name}) order by ${name}), '[]') from ${from})`;

/** Every team, by name. @param boardIds of those that the reader may see; null for all */
export async function allTeams(db: Queryable, boardIds: readonly number[] | null = null): Promise<Team[]> {
  const teams = await db.rows<Team>(
    `select id, name,
       array(select person_id from team_members where team_id = teams.id order by person_id) as "memberIds",
       ${listed("alarms as one where lower(one.definition ->> 'owner') = lower(teams.name)", 'one.name')} as alarms,
       ${listed('team_boards join boards as one on one.id = board_id where team_id = teams.id', 'one.title')} as boards,
       ${listed("rotas as one where (one.definition ->> 'teamId')::integer = teams.id", "one.definition ->> 'name'")} as rotas
     from teams
     order by lower(name)`
  );
  return boardIds === null
    ? teams
    : teams.map((team) => ({ ...team, boards: team.boards.filter(({ id }) => boardIds.includes(id)) }));
}

/** Every team by its name alone. */
export const teamNames = (db: Queryable): Promise<{ id: number; name: string }[]> =>
  db.rows('select id, name from teams order by lower(name)');

/** The team of a board; null for none. */
export async function teamOfBoard(db: Queryable, boardId: number): Promise<number | null> {
  const [row] = await db.rows<{ id: number }>('select team_id as id from team_boards where board_id = $1', [boardId]);
  return row?.id ?? null;
}

/** @returns its id */
export async function insertTeam(
  db: Queryable,
  name: string,
  memberIds: readonly number[],
  { at, by }: { readonly at: Instant; readonly by: string }
): Promise<number> {
  const { id } = oneRow(
    await db.rows<{ id: number }>('insert into teams (name, created_at, created_by) values ($1, $2, $3) returning id', [
      name,
      at,
      by
    ])
  );
  for (const personId of memberIds)
    await db.rows('insert into team_members (team_id, person_id) values ($1, $2)', [id, personId]);
  return id;
}

/** @throws Refusal `name-taken` */
export async function addTeam({ db, clock }: Context, name: string, by: string): Promise<Team> {
  return requireTeam(db, await named(name, () => insertTeam(db, name, [], { at: clock.now(), by })));
}

/** Gives a team another name and other members. @throws Refusal `not-found`, `name-taken`, `invalid` for people who are not there */
export async function changeTeam(
  { db }: Context,
  id: number,
  { name, memberIds }: Pick<Team, 'name' | 'memberIds'>
): Promise<Team> {
  const { name: before } = await requireTeam(db, id);
  await db.transaction(async (within) => {
    await named(name, () => within.rows('update teams set name = $2 where id = $1', [id, name]));
    // Alarms name their owner; older versions of them go on naming the team as it was called.
    await within.rows(
      `update alarms set definition = jsonb_set(definition, '{owner}', to_jsonb($2::text)) where lower(definition ->> 'owner') = lower($1)`,
      [before, name]
    );
    await within.rows('delete from team_members where team_id = $1', [id]);
    await refuseMissing(
      await within.rows(
        `insert into team_members (team_id, person_id)
         select $1, id from people where id = any($2::integer[]) and disabled_at is null
         returning person_id`,
        [id, memberIds]
      ),
      new Set(memberIds).size
    );
  });
  return requireTeam(db, id);
}

/** Removes a team; what it owned is nobody's, and its rotas name no team any more. @throws Refusal `not-found` */
export async function removeTeam({ db }: Context, id: number): Promise<void> {
  await requireTeam(db, id);
  await db.transaction(async (within) => {
    await within.rows(
      `update rotas set definition = jsonb_set(definition, '{teamId}', 'null'), version = version + 1
       where (definition ->> 'teamId')::integer = $1`,
      [id]
    );
    await within.rows('delete from teams where id = $1', [id]);
  });
}

/** Gives a board to a team, or to none. @throws Refusal `not-found` for a team that is not there */
export async function giveBoardToTeam(db: Queryable, boardId: number, teamId: number | null): Promise<void> {
  if (teamId === null) await db.rows('delete from team_boards where board_id = $1', [boardId]);
  else {
    await requireTeam(db, teamId);
    await db.rows(
      'insert into team_boards (board_id, team_id) values ($1, $2) on conflict (board_id) do update set team_id = excluded.team_id',
      [boardId, teamId]
    );
  }
}

/** Puts a person into teams, and out of all others. @throws Refusal `invalid` for teams that are not there */
export async function setTeamsOf(within: Queryable, personId: number, teamIds: readonly number[]): Promise<void> {
  await within.rows('delete from team_members where person_id = $1', [personId]);
  await refuseMissing(
    await within.rows(
      'insert into team_members (team_id, person_id) select id, $1 from teams where id = any($2::integer[]) returning team_id',
      [personId, teamIds]
    ),
    new Set(teamIds).size
  );
}

const refuseMissing = (found: readonly unknown[], wanted: number): Promise<void> =>
  found.length === wanted
    ? Promise.resolve()
    : Promise.reject(
        new Refusal('invalid', 'Some of what was chosen is not there any more.', 'Look again, then choose.')
      );

async function requireTeam(db: Queryable, id: number): Promise<Team> {
  const team = (await allTeams(db)).find((one) => one.id === id);
  if (team === undefined) throw new Refusal('not-found', 'There is no such team.', 'It may have been removed.');
  return team;
}

async function named<Result>(name: string, work: () => Promise<Result>): Promise<Result> {
  try {
    return await work();
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal('name-taken', `There is a team "${name}" already.`, 'Choose another name.', { path: ['name'] });
  }
}
