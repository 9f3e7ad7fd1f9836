import { rule, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import { processorAlarm, routeTo, withMachines } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { isRefused } from '../../core/problem/problem';
import { eventsOfIncident } from '../incidents/events';
import { incidentById } from '../incidents/incidents';
import { acknowledgeByLink, linkedMessage } from './acknowledge-by-link';

describe('a message that asks to acknowledge', () => {
  const { house, stateOf, incidentsOf, mailsTo, stress, live } = withMachines();

  it('has a link that changes nothing when it is followed, and counts once; and a picture of what was measured', async () => {
    const route = await routeTo(house, 'link@example.test');
    const alarm = await processorAlarm(house, 'gate-api-1', {
      route,
      runbook: 'https://runbooks.example.test/processor',
      rule: rule(1, 1, { levels: [threshold('above', 80)] })
    });
    await until('clear', async () => (await stateOf(alarm)) === 'clear');
    stress('gate-api-1', 95, 30);
    await live(3);
    const [mail] = await until(
      'the mail',
      () => mailsTo('link@example.test').length > 0 && mailsTo('link@example.test')
    );
    const [incident] = await incidentsOf(alarm);
    expect(mail?.text).to.contain('https://runbooks.example.test/processor');
    expect(mail?.text).to.match(/Service: +Machines/);
    const token = /\/a\/([\w-]+)/.exec(mail?.text ?? '')?.[1] ?? '';
    expect(mail?.html).to.contain(`/a/${token}`);
    const png = Buffer.from(/data:image\/png;base64,([\w+/=]+)/.exec(mail?.html ?? '')?.[1] ?? '', 'base64');
    expect([png.subarray(1, 4).toString(), png.readUInt32BE(16), png.readUInt32BE(20)]).to.deep.equal([
      'PNG',
      1120,
      400
    ]);
    const { bussola, clock } = house;
    for (let look = 0; look < 3; look++) expect((await linkedMessage(bussola, token)).isUsed).to.equal(false);
    expect((await incidentById(bussola.db, incident!.id))?.acknowledgedBy).to.equal(null);
    const answers = await Promise.all(
      [1, 2, 3].map(() =>
        acknowledgeByLink(bussola, token, null).then(
          () => 'done',
          (error: unknown) => (isRefused(error, 'not-allowed') ? 'used' : String(error))
        )
      )
    );
    expect(answers.sort()).to.deep.equal(['done', 'used', 'used']);
    expect((await incidentById(bussola.db, incident!.id))?.acknowledgedBy).to.equal('link@example.test');
    const acknowledged = (await eventsOfIncident(bussola.db, incident!.id)).filter(
      ({ kind }) => kind === 'acknowledged'
    );
    expect(acknowledged).to.have.length(1);
    clock.pass(60 * 72);
    const expired: unknown = await linkedMessage(bussola, token).catch((error: unknown) => error);
    expect(isRefused(expired, 'not-found') && expired.message).to.equal('This link has expired.');
  }).timeout(180_000);
});
