import { expect } from 'chai';
import { connect, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import {
  budgetSchema,
  dayAt,
  dayOf,
  micros,
  monthAt,
  type BillEntry,
  type Budget,
  type DayNumber
} from '../../core/cost';
import { isRefused } from '../../core/problem/problem';
import { alarmById, seriesStates } from '../alarms/alarms';
import { removeAlarm, saveAlarm } from '../alarms/save-alarm';
import type { Account } from '../inventory/accounts';
import { budgetStandings, tryBudget } from './budget-standings';
import { budgets } from './budgets';

const budget = (more: object = {}): Budget =>
  budgetSchema.parse({
    ...{ name: 'All', amount: 1000, currency: 'EUR', period: { kind: 'month' }, on: 'expected' },
    levels: [{ severity: 'major', percent: 100 }],
    ...more
  });
const entry = (service: string, day: DayNumber, euro: number, category: 'usage' | 'purchase' = 'usage'): BillEntry => ({
  item: {
    ...{ resource: service, resourceName: service, resourceType: '', region: '', service, usage: 'hours', unit: 'h' },
    ...{ category, currency: 'EUR', labels: {} }
  },
  ...{ day, billed: micros(euro * 1_000_000), amortised: micros(euro * 1_000_000), quantity: 1 }
});

describe('budgets', () => {
  const house = withHouse();
  let account: Account;
  let today: DayNumber;
  const about = async (id: number) => (await alarmById(house.bussola.db, id))?.definition.about;
  const code = async (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (error: unknown) => (isRefused(error) ? error.code : String(error))
    );

  before(async () => {
    // The 21st: twenty days are billed.
    const now = new Date(house.clock.now());
    house.clock.pass((Date.UTC(now.getUTCFullYear(), now.getUTCMonth(), 21, 12) - house.clock.now()) / 60_000);
    today = dayAt(house.clock.now());
    account = await connect(house, 'corallo-prod');
    const from = (monthAt(today).from - 60) as DayNumber;
    const days = Array.from({ length: today - from }, (_, index) => (from + index) as DayNumber);
    const entries = days.flatMap((day) => [entry('machines', day, 10), entry('databases', day, 20)]);
    entries.push(entry('plan', monthAt(today).from, 100, 'purchase'));
    await house.bussola.costs.bills.put(account.id, { from, to: today }, entries, house.clock.now());
  });

  it('stand by what is billed and what the rest of the period is expected to cost; what is bought counts once', async () => {
    const { from, to } = monthAt(today);
    const only = budget({ filters: [{ by: 'service', values: ['databases'] }] });
    const [all, some] = await budgetStandings(house.bussola, [budget(), only], house.clock.now());
    expect(all).to.deep.include({ period: { from, to }, until: today });
    expect(all?.spent).to.equal(20 * 30 + 100);
    expect(all?.expected).to.be.closeTo((to - from) * 30 + 100, 1e-6);
    expect(some?.expected).to.be.closeTo((to - from) * 20, 1e-6);
  });

  it('of which nothing is billed yet, on the first day of a period, are expected to cost what days did', async () => {
    const own = budget({ period: { kind: 'own', from: '2026-01-01', days: 1 } });
    const [standing] = await budgetStandings(house.bussola, [own], house.clock.now());
    expect(standing).to.deep.include({ spent: 0, expected: 30, period: { from: today, to: today + 1 } });
  });

  it('in another currency stand nowhere, and are refused when they are tried', async () => {
    const other = budget({ currency: 'CHF' });
    expect(await budgetStandings(house.bussola, [other], house.clock.now())).to.deep.equal([null]);
    expect(await code(tryBudget(house.bussola, other, house.clock.now()))).to.equal('invalid');
  });

  it('say what their periods before cost, and when they were passed', async () => {
    const { past } = await tryBudget(house.bussola, budget({ amount: 300 }), house.clock.now());
    const [last] = past;
    expect(last?.to).to.equal(monthAt(today).from);
    expect(last?.spent).to.equal((last!.to - last!.from) * 30);
    expect(last?.passedOn).to.equal(last!.from + 10);
    expect(past.every((one) => one.from >= dayOf('2026-01-01'))).to.equal(true);
  });

  it('have an alarm that follows them, is made anew where it was removed, and goes with them', async () => {
    const { bussola } = house;
    const made = await budgets.add(bussola, budget(), 'Kaja');
    const alarm = (await alarmById(bussola.db, made.alarmId!))!;
    expect(alarm.definition).to.deep.include({ name: 'Budget: All', enabled: true });
    const changed = await budgets.save(bussola, made.id, 1, budget({ name: 'Everything', enabled: false }), 'Kaja');
    expect((await alarmById(bussola.db, alarm.id))?.definition).to.deep.include({
      name: 'Budget: Everything',
      enabled: false
    });
    expect(await code(budgets.save(bussola, made.id, 1, budget(), 'Ivo'))).to.equal('changed-meanwhile');
    expect(await about(alarm.id), 'in money').to.equal('All accounts are expected to pass €1,000 a month.');
    const dearer = await budgets.save(bussola, made.id, changed.version, budget({ amount: 700, on: 'actual' }), 'Kaja');
    expect(await about(alarm.id)).to.equal('All accounts have passed €700 a month.');
    await saveAlarm(bussola, alarm.id, { ...alarm.definition, about: 'Ask Ivo.' }, 'Ivo');
    await budgets.save(bussola, made.id, dearer.version, budget({ amount: 800 }), 'Kaja');
    expect(await about(alarm.id), 'as people wrote it').to.equal('Ask Ivo.');
    await removeAlarm(bussola, alarm.id);
    const again = await budgets.save(bussola, made.id, dearer.version + 1, budget(), 'Kaja');
    expect(again.alarmId).to.not.equal(alarm.id);
    await budgets.remove(bussola, made.id);
    expect(await alarmById(bussola.db, again.alarmId!)).to.equal(null);
    expect(await code(budgets.remove(bussola, made.id))).to.equal('not-found');
    expect(await code(budgets.add(bussola, budget({ route: 999 }), 'Kaja'))).to.equal('route-missing');
  });

  it('are measured each minute, and raised once they are passed', async () => {
    const { bussola, clock } = house;
    const { alarmId } = await budgets.add(bussola, budget({ name: 'Small', amount: 500 }), 'Kaja');
    const state = async () => (await seriesStates(bussola.db, alarmId!))[0]?.state;
    await until(
      'raised',
      async () => {
        clock.pass(1);
        return (await state()) === 'raised';
      },
      40_000
    );
  }).timeout(180_000);
});
