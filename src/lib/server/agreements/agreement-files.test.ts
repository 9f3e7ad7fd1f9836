import { expect } from 'chai';
import { confirmedChannel, processorAlarm, routeTo, withMachines } from '../../../../tests/support/bussola';
import { refusalOf } from '../../../../tests/support/refusal';
import { budgetSchema } from '../../core/cost';
import { groupRuleSchema } from '../../core/group';
import { objectiveSchema } from '../../core/objective';
import { responseSchema, usualLimits } from '../../core/response';
import { plainSignal } from '../../core/signal';
import { summaryPlanSchema } from '../../core/summary';
import { budgets } from '../cost/budgets';
import { insertGroup } from '../query/groups/groups';
import { objectives } from '../objective/objectives';
import { insertPerson } from '../people/people';
import { addResponse } from '../responses/manage-responses';
import { allResponses } from '../responses/responses';
import { addPlan } from '../summary/manage-plans';
import { allPlans } from '../summary/plans';
import { agreementsAsFile, applyAgreementFile, planAgreementFile } from './agreement-files';

describe('files of budgets, promises, responses and summaries', () => {
  const { house } = withMachines();
  const server = () => house.bussola;
  let acting: { by: string; personId: number; accounts: null };
  /** All that is stored of them, without when and by whom. */
  const stored = async () => {
    const { db } = server();
    return JSON.stringify([
      (await budgets.all(db)).map(({ value }) => value),
      (await objectives.all(db)).map(({ value }) => value),
      (await allResponses(db)).map(({ response }) => response),
      (await allPlans(db)).map(({ plan }) => plan)
    ]);
  };

  before(async function () {
    this.timeout(90_000);
    const { db, clock } = server();
    const kaja = await insertPerson(db, {
      ...{ name: 'kaja', displayName: 'Kaja', role: 'administrator', passwordHash: '', zone: 'UTC' },
      createdAt: clock.now()
    });
    acting = { by: 'Kaja', personId: kaja.id, accounts: null };
    const channel = await confirmedChannel(house, 'harbour@example.test');
    const routeId = await routeTo(house, 'leads@example.test');
    const alarm = await processorAlarm(house, 'booking-web-2');
    const rule = groupRuleSchema.parse({ match: 'all', conditions: [{ label: 'resource', matches: '^booking-' }] });
    const { id: groupId } = await insertGroup(db, { name: 'booking', rule }, 'Kaja', clock.now());
    await budgets.add(
      server(),
      budgetSchema.parse({
        ...{ name: 'All', amount: 1000, currency: 'EUR', period: { kind: 'month' }, on: 'actual', route: routeId },
        levels: [{ severity: 'major', percent: 100 }]
      }),
      'Kaja'
    );
    await objectives.add(
      server(),
      objectiveSchema.parse({
        ...{ name: 'Quick', targetPercent: 99, period: { kind: 'rolling', days: 30 }, route: null, levels: [] },
        of: {
          kind: 'time',
          signal: plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }),
          is: 'below',
          limit: 90
        }
      }),
      'Kaja'
    );
    await addResponse(
      server(),
      responseSchema.parse({
        ...{ name: 'Restart', alarmId: alarm.id, from: 'major', heldMinutes: 5, action: { kind: 'restart' } },
        limits: { ...usualLimits, group: { groupId, oneIn: 3 } }
      }),
      acting
    );
    const plan = { name: 'Week', kind: 'week', at: '08:00', zone: 'UTC', channels: [channel] };
    await addPlan(server(), summaryPlanSchema.parse(plan), 'Kaja');
  });

  it('have names in place of ids, and change nothing when they are applied as they are', async () => {
    for (const format of ['yaml', 'json'] as const) {
      const text = await agreementsAsFile(server().db, format);
      expect(text)
        .to.match(/booking/)
        .and.not.match(/groupId|alarmId|channelId/);
      const plan = await planAgreementFile(server(), text);
      expect(plan.map(({ kind, name }) => `${kind} ${name}`)).to.deep.equal([
        ...['budgets All', 'promises Quick', 'responses Restart', 'summaries Week']
      ]);
      for (const one of plan) expect([one.differences, one.problems], one.name).to.deep.equal([[], []]);
      expect((await applyAgreementFile(server(), text, acting)).applied).to.equal(0);
    }
  });

  it('make what is not there, as it was where the file was written', async () => {
    const { db } = server();
    const text = await agreementsAsFile(db, 'yaml');
    const before = await stored();
    for (const table of ['budgets', 'objectives', 'responses', 'summary_plans']) await db.rows(`delete from ${table}`);
    expect((await planAgreementFile(server(), text)).every(({ id }) => id === null)).to.equal(true);
    expect((await applyAgreementFile(server(), text, acting)).applied).to.equal(4);
    expect(await stored()).to.equal(before);
    expect((await budgets.all(db))[0]?.alarmId, 'with its alarm').not.to.equal(null);
  });

  it('change what they say otherwise, and leave what they do not name', async () => {
    const text = (await agreementsAsFile(server().db, 'yaml'))
      .replace('amount: 1000', 'amount: 1500')
      .replace(/summaries:[\s\S]*/, 'summaries: []\n');
    const plan = await planAgreementFile(server(), text);
    expect(plan.flatMap(({ differences }) => differences)).to.deep.equal(['amount: 1000 → 1500']);
    expect((await applyAgreementFile(server(), text, acting)).applied).to.equal(1);
    expect((await budgets.all(server().db))[0]?.value.amount).to.equal(1500);
    expect(await allPlans(server().db)).to.have.length(1);
  });

  it('that are wrong anywhere change nothing, and say where', async () => {
    const text = await agreementsAsFile(server().db, 'yaml');
    const before = await stored();
    const problemsOf = async (changed: string) =>
      (await planAgreementFile(server(), changed)).flatMap(({ problems }) => problems);
    expect(await problemsOf(text.replace('name: booking', 'name: nothing'))).to.deep.equal([
      'There is no group called “nothing” here.'
    ]);
    expect((await problemsOf(text.replace('heldMinutes: 5', 'heldMinutes: -5')))[0]).to.match(/^heldMinutes: /);
    expect((await problemsOf(text.replace('heldMinutes: 5', 'heldHours: 5'))).join()).to.match(/heldMinutes|heldHours/);
    // The first of them could be applied; it is not.
    const changed = text.replace('amount: 1500', 'amount: 7').replace('name: booking', 'name: nothing');
    expect((await refusalOf(applyAgreementFile(server(), changed, acting)))?.message).to.match(
      /Nothing was changed\.$/
    );
    const mayNot = { ...acting, accounts: [] };
    const more = text.replace('amount: 1500', 'amount: 7').replace('heldMinutes: 5', 'heldMinutes: 6');
    expect((await refusalOf(applyAgreementFile(server(), more, mayNot)))?.code).to.equal('not-allowed');
    expect(await stored()).to.equal(before);
    for (const wrong of [
      'kind: on-call\nversion: 1\n',
      'kind: agreements\nversion: 2\n',
      '{',
      'kind: agreements\nversion: 1\nbudgets: [{ name: a }, { name: a }]\n'
    ]) {
      const refused = await refusalOf(planAgreementFile(server(), wrong));
      expect(refused?.code, wrong).to.equal('unreadable');
    }
    expect(await stored()).to.equal(before);
  });
});
