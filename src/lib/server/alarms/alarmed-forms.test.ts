import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { refusalOf } from '../../../../tests/support/refusal';
import { budgetSchema, budgetWords, type Budget } from '../../core/cost';
import { instant } from '../../core/time';
import { Changes, type ChangeMap } from '../base/changes';
import { budgets } from '../cost/budgets';
import { alarmById } from './alarms';
import { keptWords } from './alarmed-forms';

const budget = (more: object = {}): Budget =>
  budgetSchema.parse({
    ...{ name: 'All', amount: 1000, currency: 'EUR', period: { kind: 'month' }, on: 'expected' },
    levels: [{ severity: 'major', percent: 100 }],
    ...more
  });

describe('definitions with an alarm of their own', () => {
  const at = withDatabase();
  const changes = new Changes();
  let told: (keyof ChangeMap)[] = [];
  const context = () => ({ db: at.db, changes, clock: { now: () => instant(1_777_900_000_000) } });
  const alarmOf = async (id: number | null) => (id === null ? null : await alarmById(at.db, id));
  before(() => {
    for (const name of ['costs', 'definition', 'alarm'] as const) changes.on(name, () => told.push(name));
  });
  beforeEach(async () => {
    await at.db.rows('delete from budgets');
    told = [];
  });

  it('get it when they are made, under a name that says whose it is, and both are told of', async () => {
    const made = await budgets.add(context(), budget(), 'Kaja');
    const alarm = await alarmOf(made.alarmId);
    expect(alarm?.definition).to.include({ name: 'Budget: All', about: budgetWords(budget()), enabled: true });
    expect(alarm?.definition.rule.levels.map(({ severity }) => severity)).to.deep.equal(['major']);
    expect(told).to.deep.equal(['costs', 'definition']);
  });

  it('change it with themselves: its words too, unless people wrote others; what people added stays', async () => {
    const { id, version, alarmId } = await budgets.add(context(), budget(), 'Kaja');
    const dearer = budget({ amount: 5000, name: 'All of it', enabled: false });
    const saved = await budgets.save(context(), id, version, dearer, 'Nerea');
    expect([saved.version, saved.changedBy, saved.alarmId]).to.deep.equal([2, 'Nerea', alarmId]);
    expect((await alarmOf(alarmId))?.definition).to.include({
      ...{ name: 'Budget: All of it', about: budgetWords(dearer), enabled: false }
    });
    await at.db.rows(
      `update alarms set definition = definition || '{"about":"Ask the harbour office.","runbook":"https://example.test/money"}' where id = $1`,
      [alarmId]
    );
    await budgets.save(context(), id, 2, budget({ amount: 6000 }), 'Nerea');
    expect((await alarmOf(alarmId))?.definition).to.include({
      ...{ about: 'Ask the harbour office.', runbook: 'https://example.test/money' }
    });
    expect([keptWords('new', null, null), keptWords('new', { about: '' } as never, 'old')]).to.deep.equal([
      'new',
      'new'
    ]);
  });

  it('are refused, with nothing changed, where somebody else was first, where a route is gone, and where there is none', async () => {
    const { id } = await budgets.add(context(), budget(), 'Kaja');
    await budgets.save(context(), id, 1, budget({ amount: 2 }), 'Nerea');
    told = [];
    const late = await refusalOf(budgets.save(context(), id, 1, budget({ amount: 3 }), 'Kaja'));
    expect([late?.code, late?.message]).to.deep.equal(['changed-meanwhile', 'Nerea changed this budget meanwhile.']);
    const lost = await refusalOf(budgets.save(context(), id, 2, budget({ route: 4711 }), 'Kaja'));
    expect([lost?.code, lost?.path]).to.deep.equal(['route-missing', ['route']]);
    expect((await refusalOf(budgets.add(context(), budget({ route: 4711 }), 'Kaja')))?.code).to.equal('route-missing');
    expect((await refusalOf(budgets.save(context(), 4711, 1, budget(), 'Kaja')))?.code).to.equal('not-found');
    expect((await refusalOf(budgets.remove(context(), 4711)))?.code).to.equal('not-found');
    const all = await budgets.all(at.db);
    expect(all.map(({ value: { amount } }) => amount)).to.deep.equal([2]);
    expect(told).to.deep.equal([]);
  });

  it('take it with them when they go; one that was removed by itself is made anew when they are saved', async () => {
    const { id, alarmId } = await budgets.add(context(), budget(), 'Kaja');
    await at.db.rows('update alarms set removed_at = 1 where id = $1', [alarmId]);
    const saved = await budgets.save(context(), id, 1, budget({ amount: 7 }), 'Kaja');
    expect(saved.alarmId).not.to.equal(alarmId);
    expect((await alarmOf(saved.alarmId))?.definition.name).to.equal('Budget: All');
    await budgets.remove(context(), id);
    expect(await alarmOf(saved.alarmId)).to.equal(null);
    expect(await budgets.byId(at.db, id)).to.equal(null);
  });

  it('that cannot be read hide no other, and are named', async () => {
    const { id } = await budgets.add(context(), budget({ name: 'Sound' }), 'Kaja');
    const broken = await budgets.add(context(), budget({ name: 'Broken' }), 'Kaja');
    await at.db.rows(`update budgets set definition = '{"version":99}' where id = $1`, [broken.id]);
    expect((await budgets.all(at.db)).map((one) => one.id)).to.deep.equal([id]);
    expect((await budgets.unreadable(at.db)).map(({ message }) => message).join()).to.match(/version 99/);
  });
});
