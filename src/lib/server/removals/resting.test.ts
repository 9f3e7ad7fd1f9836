import { expect } from 'chai';
import fc from 'fast-check';
import { withDatabase } from '../../../../tests/support/database';
import { refusalOf } from '../../../../tests/support/refusal';
import { after, instant, type Instant } from '../../core/time';
import { Changes } from '../base/changes';
import { allRemovals, forgetRemovals, restsFor } from './removals';
import { restore, resting, restingKinds } from './resting';

const editor = { id: 1, role: 'editor' } as const;
const administrator = { id: 1, role: 'administrator' } as const;

describe('what people removed', () => {
  const fixture = withDatabase();
  const now = instant(Date.UTC(2026, 4, 4));
  const context = () => ({ db: fixture.db, clock: { now: () => now }, changes: new Changes() });
  /** Rows of every kind that rests, as the database has them, to the letter. */
  const watched = [
    ...['boards', 'board_favourites', 'board_links', 'board_rights', 'board_versions', 'board_visits', 'board_folders'],
    ...['marks', 'signals', 'groups', 'derived', 'channels', 'routes', 'rotas', 'calendar_links', 'rota_overrides'],
    ...[
      'rota_swaps',
      'budgets',
      'objectives',
      'reachability_checks',
      'reachability_attempts',
      'line_rules',
      'responses',
      'connectors',
      'followers',
      'connector_recordings'
    ],
    ...['teams', 'team_boards', 'team_members', 'alarms', 'alarm_versions', 'event_rules', 'outbox', 'response_runs']
  ];
  const everything = async (): Promise<Record<string, string[]>> => {
    const all: Record<string, string[]> = {};
    for (const table of watched)
      all[table] = (
        await fixture.db.rows<{ row: string }>(`select ${table}::text as row from ${table} order by 1`)
      ).map(({ row }) => row);
    return all;
  };
  /** The columns of a table that something can be made of: what is not given by itself. */
  interface Column {
    readonly name: string;
    readonly type: string;
    readonly isNullable: boolean;
  }
  const columnsOf = new Map<string, readonly Column[]>();
  const text = fc.string({ unit: 'grapheme', maxLength: 20 }).map((one) => one.replaceAll('\0', ''));
  const json = fc
    .dictionary(fc.constantFrom('name', 'reason', 'a', 'ü', '"'), fc.oneof(text, fc.integer(), fc.boolean()), {
      minKeys: 1
    })
    .map((one) => JSON.stringify(one));
  /** A value that a column takes. */
  const valueOf = ({ type, isNullable }: Column): fc.Arbitrary<unknown> => {
    const plain: fc.Arbitrary<unknown> =
      type === 'jsonb'
        ? json
        : type === 'bytea'
          ? fc.uint8Array({ maxLength: 40 }).map((bytes) => Buffer.from(bytes))
          : type === 'boolean'
            ? fc.boolean()
            : type === 'double precision'
              ? fc.double({ noNaN: false, noDefaultInfinity: true })
              : type === 'text'
                ? text
                : type === 'bigint'
                  ? fc.integer({ min: 0, max: Number.MAX_SAFE_INTEGER })
                  : fc.integer({ min: 0, max: 2_147_483_647 });
    return isNullable ? fc.option(plain, { freq: 4 }) : plain;
  };
  before(async () => {
    for (const table of watched) {
      const rows = await fixture.db.rows<Column>(
        `select column_name as name, data_type as type, is_nullable = 'YES' as "isNullable"
         from information_schema.columns
         where table_name = $1 and is_generated = 'NEVER' order by ordinal_position`,
        [table]
      );
      columnsOf.set(table, rows);
    }
  });
  beforeEach(async () => {
    for (const table of [...watched].reverse()) await fixture.db.rows(`delete from ${table}`);
    await fixture.db.rows('delete from removals');
    await fixture.db.rows('delete from people');
    await fixture.db.rows('delete from accounts');
    await fixture.db.rows(
      `insert into people (id, name, display_name, role, password_hash, zone, created_at) overriding system value
       values (1, 'a', 'A', 'editor', '', 'UTC', 0), (2, 'b', 'B', 'editor', '', 'UTC', 0)`
    );
  });

  /** Inserts a row whose values are of chance but for those that are given. */
  async function insert(table: string, seed: number, given: Readonly<Record<string, unknown>>): Promise<void> {
    const columns = columnsOf.get(table) ?? [];
    const values = fc.sample(fc.tuple(...columns.map(valueOf)), { numRuns: 1, seed })[0] ?? [];
    const row = columns.map(({ name }, index) => (name in given ? given[name] : values[index]));
    await fixture.db.rows(
      `insert into ${table} (${columns.map(({ name }) => `"${name}"`).join(', ')}) overriding system value values (${columns.map((_, index) => `$${index + 1}`).join(', ')})`,
      row
    );
  }
  /** Of each kind, the table of the thing and what goes with it; what is given keeps the database's own rules. */
  const kinds: Readonly<Record<string, (seed: number) => Promise<{ table: string; id: number; remove?: string }>>> = {
    boards: async (seed) => {
      await insert('board_folders', seed, { id: 4, name: 'f' });
      await insert('boards', seed, {
        id: 7,
        owner_id: 2,
        folder_id: 4,
        reach: 'workspace',
        everyone: 'view',
        title: 't'
      });
      await insert('board_favourites', seed, { board_id: 7, person_id: 1 });
      await insert('board_rights', seed, { board_id: 7, person_id: 1, may: 'edit', role: null });
      await insert('board_versions', seed, { board_id: 7 });
      await insert('marks', seed, { id: 3, board_id: 7, from_at: 5, to_at: 9, source: 'person' });
      return { table: 'boards', id: 7 };
    },
    folders: async (seed) => {
      await insert('board_folders', seed, { id: 4, name: 'f' });
      await insert('boards', seed, {
        id: 7,
        owner_id: 2,
        folder_id: 4,
        reach: 'workspace',
        everyone: 'view',
        title: 't'
      });
      return { table: 'board_folders', id: 4 };
    },
    signals: plain('signals'),
    groups: plain('groups'),
    marks: plain('marks', { board_id: null, from_at: 5, to_at: 9, source: 'person' }),
    routes: plain('routes', { is_last: false }),
    rotas: plain('rotas'),
    budgets: plain('budgets'),
    objectives: plain('objectives'),
    'line-rules': plain('line_rules'),
    responses: plain('responses', { person_id: 1 }),
    connectors: async (seed) => {
      await insert('connectors', seed, { id: 7 });
      await insert('connector_recordings', seed, { connector_id: 7 });
      return { table: 'connectors', id: 7 };
    },
    followers: async (seed) => {
      await insert('channels', seed, { id: 7, kind: 'webhook', person_id: null, topic_id: null, settings: '{}' });
      await insert('followers', seed, { id: 7, channel_id: 7, kinds: '{alarms,boards}' });
      return { table: 'followers', id: 7 };
    },
    checks: async (seed) => {
      await insert('reachability_checks', seed, { id: 7 });
      await insert('reachability_attempts', seed, { check_id: 7 });
      return { table: 'reachability_checks', id: 7 };
    },
    channels: async (seed) => {
      const own = { person_id: null, topic_id: null, settings: '{}' };
      await insert('channels', seed, { id: 7, kind: 'topic', address: 'topic a', ...own });
      await insert('channels', seed + 1, { id: 8, kind: 'email', address: 'b@example.test', ...own, topic_id: 7 });
      return { table: 'channels', id: 7 };
    },
    // These are marked as removed, and stay for those who look at what they raised.
    alarms: async (seed) => {
      await insert('alarms', seed, { id: 7, removed_at: null });
      return { table: 'alarms', id: 7, remove: 'update alarms set removed_at = 5 where id = $1' };
    },
    'event-rules': async (seed) => {
      await insert('event_rules', seed, { id: 7, removed_at: null });
      return { table: 'event_rules', id: 7, remove: 'update event_rules set removed_at = 5 where id = $1' };
    },
    derived: async (seed) => {
      await fixture.db.rows(
        `insert into accounts (id, name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from) overriding system value
         values (1, 'derived', 'derived', '', '', '', 0, 'test', 0)`
      );
      await insert('derived', seed, { id: 7, account_id: 1 });
      return { table: 'derived', id: 7 };
    },
    teams: async (seed) => {
      await insert('teams', seed, { id: 7 });
      await insert('team_members', seed, { team_id: 7, person_id: 2 });
      return { table: 'teams', id: 7 };
    }
  };
  function plain(table: string, given: object = {}) {
    return async (seed: number) => {
      await insert(table, seed, { id: 7, ...given });
      return { table, id: 7 };
    };
  }

  for (const [kind, make] of Object.entries(kinds))
    it(`is put back to the letter, with all that went with it: ${kind}`, async () => {
      await fc.assert(
        fc.asyncProperty(fc.integer(), async (seed) => {
          for (const table of [...watched].reverse()) await fixture.db.rows(`delete from ${table}`);
          await fixture.db.rows('delete from accounts');
          const { table, id, remove = `delete from ${table} where id = $1` } = await make(seed);
          const before = await everything();
          expect(before[table]?.length).to.be.at.least(1);
          await resting(context(), { kind, id, by: 'A' }, ({ db }) => db.rows(remove, [id]));
          expect((await everything())[table]).to.not.deep.equal(before[table]);
          const [removal] = await allRemovals(fixture.db, 2, 10);
          expect(removal).to.deep.include({ kind, thingId: id, removedBy: 'A', removedAt: now });
          await restore(context(), removal?.id ?? 0, { id: 2, role: 'administrator' });
          expect(await everything()).to.deep.equal(before);
          expect(await allRemovals(fixture.db, 2, 10)).to.deep.equal([]);
        }),
        { numRuns: 12 }
      );
    }).timeout(180_000);

  const signal = (id: number, name: string) => insert('signals', id, { id, name });
  const removeSignal = (id: number) =>
    resting(context(), { kind: 'signals', id, by: 'A' }, ({ db }) =>
      db.rows('delete from signals where id = $1', [id])
    );

  it('rests only where somebody removed it, and 30 days', async () => {
    await signal(1, 'one');
    await fixture.db.rows('delete from signals where id = 1');
    expect(await allRemovals(fixture.db, 1, 10), 'what went by itself is gone').to.deep.equal([]);
    await removeSignal(1);
    expect(await allRemovals(fixture.db, 1, 10), 'nothing went').to.deep.equal([]);
    await signal(2, 'two');
    await removeSignal(2);
    await forgetRemovals(fixture.db, (after(now, restsFor) - 1) as Instant);
    expect(await allRemovals(fixture.db, 1, 10)).to.have.length(1);
    await forgetRemovals(fixture.db, after(now, restsFor));
    expect(await allRemovals(fixture.db, 1, 10)).to.deep.equal([]);
    expect(await fixture.db.rows('select 1 from removed_rows')).to.deep.equal([]);
  });

  it('comes back only where nothing has its name now, and only once; nothing is lost by trying', async () => {
    await signal(1, 'one');
    await removeSignal(1);
    const [removal] = await allRemovals(fixture.db, 1, 10);
    await signal(2, 'one');
    expect((await refusalOf(restore(context(), removal?.id ?? 0, editor)))?.code).to.equal('name-taken');
    expect(await allRemovals(fixture.db, 1, 10)).to.have.length(1);
    await fixture.db.rows('delete from signals where id = 2');
    await restore(context(), removal?.id ?? 0, editor);
    expect((await refusalOf(restore(context(), removal?.id ?? 0, editor)))?.code).to.equal('not-found');
  });

  it('is put back by whoever may remove it; of private boards, nobody but the owner learns', async () => {
    await insert('teams', 1, { id: 1, name: 'deck' });
    await resting(context(), { kind: 'teams', id: 1, by: 'A' }, ({ db }) => db.rows('delete from teams'));
    const [team] = await allRemovals(fixture.db, 1, 10);
    expect((await refusalOf(restore(context(), team?.id ?? 0, editor)))?.code).to.equal('not-allowed');
    await restore(context(), team?.id ?? 0, administrator);
    await insert('boards', 1, {
      id: 7,
      owner_id: 2,
      folder_id: null,
      reach: 'private',
      everyone: 'view',
      title: 'mine'
    });
    await resting(context(), { kind: 'boards', id: 7, by: 'B' }, ({ db }) => db.rows('delete from boards'));
    expect(await allRemovals(fixture.db, 1, 10)).to.deep.equal([]);
    const [board] = await allRemovals(fixture.db, 2, 10);
    expect(board?.name).to.equal('mine');
    expect((await refusalOf(restore(context(), board?.id ?? 0, administrator)))?.code).to.equal('not-found');
    await restore(context(), board?.id ?? 0, { id: 2, role: 'editor' });
  });

  it('is told once it is gone for good, and not at all where it was refused', async () => {
    const told: string[] = [];
    const server = context();
    server.changes.on('objectives', () => told.push('told'));
    await insert('objectives', 1, { id: 1 });
    const failed = await resting(server, { kind: 'objectives', id: 1, by: 'A' }, ({ db, changes }) => {
      changes.tell('objectives', {});
      return db.rows('delete from objectives').then(() => Promise.reject(new Error('no')));
    }).catch((error: unknown) => String(error));
    expect([failed, told]).to.deep.equal(['Error: no', []]);
    expect(await fixture.db.rows('select 1 from objectives')).to.have.length(1);
    await resting(server, { kind: 'objectives', id: 1, by: 'A' }, async ({ db, changes }) => {
      changes.tell('objectives', {});
      expect(told).to.deep.equal([]);
      await db.transaction((within) => within.rows('delete from objectives'));
    });
    expect(told).to.deep.equal(['told']);
    expect([...restingKinds.keys()]).to.include.members(Object.keys(kinds));
  });
});
