import { expect } from 'chai';
import { mailsTo, processorAlarm, routeTo, withMachines } from '../../../../tests/support/bussola';
import { rule, threshold } from '../../../../tests/support/alarm';
import { storeStorm } from '../../../../tests/support/incidents';
import { until } from '../../../../tests/support/until';
import { minute } from '../../core/time';
import { listOpen } from '../incidents/list';

describe('a storm of incidents', () => {
  const { house } = withMachines();
  const many = 2000;

  it('is few messages, and the list of incidents answers meanwhile', async () => {
    const { db, changes } = house.bussola;
    const group = { by: 'alarm', wait: minute, atMostEvery: 10 * minute } as const;
    const route = await routeTo(house, 'storm@example.test', { group });
    const never = rule(1, 1, { levels: [threshold('above', 1e9)] });
    const { id } = await processorAlarm(house, 'gate-api-1', { name: 'Storm', route, rule: never });
    // Nobody judges it: what is raised here stays so.
    await db.rows('delete from alarm_work where alarm_id = $1', [id]);
    const now = house.clock.now();
    await storeStorm(db, id, many, now, ['major']);
    changes.tell('alarm', { alarmId: id });
    const answers: number[] = [];
    const any = { severity: null, service: null, account: null, attention: null, text: null };
    await until(
      'all are taken into the thread',
      async () => {
        answers.push((await listOpen(house.bussola, any, 100, 0)).groups.flatMap(({ incidents }) => incidents).length);
        const [left] = await db.rows<{ count: number }>(
          'select count(*)::integer as count from incident_events where handled_at is null'
        );
        return left?.count === 0;
      },
      120_000
    );
    expect(new Set(answers)).to.deep.equal(new Set([100]));
    house.clock.pass(minute);
    const [mail] = await until(
      'the message',
      () => {
        const mails = mailsTo(house, 'storm@example.test');
        return mails.length > 0 && mails;
      },
      120_000
    );
    expect(mail?.subject).to.equal(`MAJOR ${many} raised on Storm: machine-1, machine-2 and ${many - 2} more`);
    // Once the time between messages has passed there is nothing more to say.
    house.clock.pass(10 * minute);
    await until('the thread rests', async () => {
      const [waiting] = await db.rows<{ count: number }>(
        'select count(*)::integer as count from threads where due_at <= $1',
        [house.clock.now()]
      );
      return waiting?.count === 0;
    });
    expect(mailsTo(house, 'storm@example.test')).to.have.length(1);
  }).timeout(240_000);
});
