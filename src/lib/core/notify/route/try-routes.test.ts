import { expect } from 'chai';
import { rotaSchema } from '../../rota';
import { instantFromText, minute } from '../../time';
import { routeSchema, tryRoutes, type RoutedIncident } from './index';

const at = instantFromText('2026-11-28T06:50:00Z');
const incident: RoutedIncident = {
  ...{ severity: 'critical', service: 'replication', account: 'corallo-prod', region: 'dorsale-1' },
  ...{ resource: 'dorsale-standby', alarmId: 3, incidentId: 7, labels: {}, groupIds: [] }
};
const daily = rotaSchema.parse({
  name: 'Data',
  zone: 'Europe/Rome',
  layers: [{ people: [1, 2], days: 1, from: '2026-11-27', at: '08:00' }]
});
const rotas = new Map([[4, { rota: daily, overrides: [] }]]);
const route = (more: object) =>
  routeSchema.parse({
    name: 'Data',
    when: {},
    steps: [
      { after: 0, notify: [{ kind: 'rota', rotaId: 4, by: ['text-message'] }] },
      {
        after: 15 * minute,
        notify: [
          { kind: 'rota', rotaId: 4, by: ['email'] },
          { kind: 'rota', rotaId: 9, by: ['email'] }
        ]
      },
      { after: 30 * minute, notify: [{ kind: 'channel', channelId: 5 }] }
    ],
    group: { by: 'incident', wait: 0, atMostEvery: 0 },
    zone: 'Europe/Rome',
    ...more
  });

describe('an incident that is tried', () => {
  it('says which route takes it, what it lacked above, and who is on call at each step, over a handover', () => {
    const routes = [route({ when: { severities: ['minor'] } }), route({})];
    const { taken, lacked, notified } = tryRoutes(routes, incident, at, rotas, 20);
    expect({ taken, lacked }).to.deep.equal({ taken: 1, lacked: [['severity']] });
    expect(notified.map(({ at: then, why, personId }) => [(then - at) / minute, why, personId])).to.deep.equal([
      [0, 'news', 1],
      [15, 'step', 2], // the watch was handed over at 08:00 in Rome
      [15, 'step', null], // a rota that is gone
      [30, 'step', null]
    ]);
  });

  it('is repeated for a day at most, and lists no more than is wanted', () => {
    const repeated = route({ repeatEvery: 60 * minute });
    expect(tryRoutes([repeated], incident, at, rotas, 1000).notified.length).to.be.within(30, 200);
    expect(tryRoutes([repeated], incident, at, rotas, 6).notified).to.have.length(6);
    expect(tryRoutes([], incident, at, rotas, 6)).to.deep.equal({ taken: null, lacked: [], notified: [] });
  });
});
