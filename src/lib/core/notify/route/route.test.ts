import { expect } from 'chai';
import { instantFromText } from '../../time';
import { lackedFor, routeFor, routeSchema, type Route, type RouteCondition, type RoutedIncident } from './index';

const at = instantFromText('2026-11-28T02:10:00Z');
const incident: RoutedIncident = {
  ...{ severity: 'major', service: 'databases', account: 'perla-data', region: 'perla-1', resource: 'ticket-orders' },
  ...{ alarmId: 3, incidentId: 7, labels: { team: 'data' }, groupIds: [2] }
};
const route = (when: Partial<RouteCondition>, more: object = {}): Route =>
  routeSchema.parse({
    name: 'Data',
    when,
    steps: [{ after: 0, notify: [{ kind: 'channel', channelId: 1 }] }],
    group: { by: 'resource', wait: 0, atMostEvery: 0 },
    zone: 'Europe/Rome',
    ...more
  });

describe('routes', () => {
  it('take an incident when all of their condition holds, and say what it lacks', () => {
    const lacked = (when: Partial<RouteCondition>) => lackedFor(route(when), incident, at);
    expect(lacked({})).to.deep.equal([]);
    expect(
      lacked({ severities: ['critical', 'major'], services: ['databases'], accounts: ['perla-data'] })
    ).to.deep.equal([]);
    expect(lacked({ severities: ['critical'], services: ['gateways'], groupIds: [1] })).to.deep.equal([
      'severity',
      'service',
      'group'
    ]);
    expect(lacked({ labels: [{ label: 'team', is: ['data', 'fleet'] }] })).to.deep.equal([]);
    expect(
      lacked({
        labels: [
          { label: 'team', is: ['data'] },
          { label: 'toString', is: ['x'] }
        ]
      })
    ).to.deep.equal(['label']);
    expect(lacked({ accounts: ['fleet-edge'], groupIds: [2, 5] })).to.deep.equal(['account']);
  });

  it('go by the clocks of their zone', () => {
    const nights = { times: { hours: { from: '20:00', to: '03:15' } } };
    expect(lackedFor(route(nights), incident, at), '03:10 in Rome').to.deep.equal([]);
    expect(lackedFor(route(nights, { zone: 'Europe/Helsinki' }), incident, at), '04:10').to.deep.equal(['time']);
  });

  it('are tried in order, and the first that takes an incident has it', () => {
    const list = [route({ severities: ['critical'] }), route({ services: ['databases'] }), route({})];
    expect(routeFor(list, incident, at)).to.deep.equal({ taken: 1, lacked: [['severity']] });
    expect(routeFor(list.slice(0, 1), incident, at)).to.deep.equal({ taken: null, lacked: [['severity']] });
    expect(routeFor(list, { ...incident, service: 'queues' }, at).taken).to.equal(2);
  });

  it('have steps that follow each other, and a digest that is one message', () => {
    const step = (after: number) => ({ after, notify: [{ kind: 'channel', channelId: 1 }] });
    const problemOf = (more: object) => {
      const result = routeSchema.safeParse({ ...route({}), ...more });
      return result.error?.issues[0]?.message;
    };
    expect(problemOf({ steps: [step(0), step(60_000)] })).to.equal(undefined);
    for (const steps of [[step(60_000)], [step(0), step(60_000), step(60_000)]])
      expect(problemOf({ steps })).to.match(/^The first step is at once/);
    expect(problemOf({ digestAt: '08:00', repeatEvery: 60_000 })).to.match(/^A digest is one message/);
    expect(problemOf({ steps: [{ after: 0, notify: [] }] })).to.equal('Choose who is notified.');
  });
});
