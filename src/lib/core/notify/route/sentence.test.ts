import { expect } from 'chai';
import { addressesOf, namesIn, reachOf, routeSchema, routeSentence, type Route, type RoutingChoices } from './index';

const minute = 60_000;
const route = (more: object): Route =>
  routeSchema.parse({
    name: 'Data',
    when: {},
    steps: [{ after: 0, notify: [{ kind: 'channel', channelId: 1 }] }],
    group: { by: 'incident', wait: 0, atMostEvery: 0 },
    zone: 'UTC',
    ...more
  });
const grave = route({
  when: {
    severities: ['critical', 'major'],
    services: ['databases'],
    labels: [{ label: 'team', is: ['data'] }],
    times: { hours: { from: '20:00', to: '08:00' } }
  },
  steps: [
    {
      after: 0,
      notify: [
        { kind: 'rota', rotaId: 3, by: ['email', 'text-message'] },
        { kind: 'channel', channelId: 1 }
      ]
    },
    { after: 15 * minute, notify: [{ kind: 'person', personId: 7, by: ['text-message'] }] }
  ],
  group: { by: 'resource', wait: minute, atMostEvery: 5 * minute },
  repeatEvery: 20 * minute,
  notifiesClear: false
});
const choices: RoutingChoices = {
  routes: [
    { id: 1, isListed: true, isLast: false, route: grave },
    { id: 2, isListed: false, isLast: false, route: route({ name: 'Own' }) },
    { id: 3, isListed: true, isLast: true, route: route({ name: 'Rest', when: { severities: ['minor'] } }) }
  ],
  channels: [
    { id: 1, name: '#bridge', address: 'chat', kind: 'chat-hook', confirmed: true, personId: null },
    { id: 2, name: 'Ivo', address: 'ivo@example.test', kind: 'email', confirmed: true, personId: 7 },
    { id: 3, name: 'Phone', address: '+12025550142', kind: 'text-message', confirmed: false, personId: 7 }
  ],
  people: [{ id: 7, displayName: 'Ivo Brandt' }],
  rotas: [{ id: 3, name: 'Data nights', people: [7, 8] }],
  groups: [],
  services: [{ key: 'databases', title: 'Databases' }],
  accounts: []
};

describe('a route in words', () => {
  it('says which incidents, who and when, and what makes one message', () => {
    expect(routeSentence(grave, namesIn(choices))).to.equal(
      'critical or major on Databases with label team is data raised 20:00 to 08:00: ' +
        'Data nights by e-mail and text message, and #bridge at once; after 15 min Ivo Brandt by text message; repeated every 20 min until acknowledged; nobody is notified when it clears; ' +
        'one message for each resource, after 1 min, at most every 5 min'
    );
    expect(routeSentence(route({ digestAt: '08:00' }), namesIn({ ...choices, channels: [] }))).to.equal(
      'every incident: at 08:00, one digest to a channel that was removed; one message for each incident'
    );
  });
});

describe('who would be notified of what an alarm raises', () => {
  const alarm = { route: null, severity: 'critical', service: 'databases', labels: { team: 'data' } } as const;
  it('is decided by the route that it names, or by the first of the list that may take it', () => {
    const nameFor = (changed: object) => reachOf({ ...alarm, ...changed }, choices)?.route;
    expect(nameFor({})).to.equal('Data');
    expect(nameFor({ labels: {} }), 'the last takes everything, whatever its condition says').to.equal('Rest');
    expect(nameFor({ route: 2 })).to.equal('Own');
    expect(nameFor({ route: 99, service: 'queues' }), 'a route that was removed').to.equal('Rest');
    expect(reachOf(alarm, { ...choices, routes: [] })).to.equal(null);
  });

  it('counts what is confirmed, and names whoever would receive nothing', () => {
    expect(reachOf(alarm, choices)).to.deep.include({
      confirmed: 2,
      unconfirmed: ['somebody who was removed']
    });
    const of = (target: Parameters<typeof addressesOf>[0]) => addressesOf(target, choices);
    expect(of({ kind: 'person', personId: 7, by: ['text-message'] })).to.deep.equal({
      confirmed: 0,
      unconfirmed: ['Ivo Brandt']
    });
    expect(of({ kind: 'channel', channelId: 3 })).to.deep.equal({ confirmed: 0, unconfirmed: ['+12025550142'] });
  });
});
