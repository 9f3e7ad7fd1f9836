import type { NewChannel } from '../src/lib/core/notify';
import { routeSchema, type Route, type Target } from '../src/lib/core/notify/route';
import { rotaSchema, type Rota } from '../src/lib/core/rota';
import type { CollectionPlan } from '../src/lib/core/intake';
import type { Role } from '../src/lib/core/people/rights';

/** The made-up people of Corallo Lines. */
export const people: readonly { name: string; displayName: string; role: Role; zone: string; mail: string }[] = [
  { name: 'kaja', displayName: 'Kaja Tamm', role: 'administrator', zone: 'UTC', mail: 'kaja.tamm@example.test' },
  { name: 'nerea', displayName: 'Nerea Olmo', role: 'editor', zone: 'UTC', mail: 'nerea.olmo@example.test' },
  { name: 'ivo', displayName: 'Ivo Brandt', role: 'editor', zone: 'UTC', mail: 'ivo.brandt@example.test' },
  { name: 'oda', displayName: 'Oda Lind', role: 'viewer', zone: 'UTC', mail: 'oda.lind@example.test' }
];

/** Teams, with who is in them and one board that they own; alarms name their owner themselves. */
export const teams: readonly { name: string; members: readonly string[]; board: string }[] = [
  { name: 'Data', members: ['nerea', 'ivo'], board: 'Nightly loads' },
  { name: 'Fleet', members: ['kaja', 'oda'], board: 'Vessels' },
  { name: 'Network', members: ['kaja'], board: 'Gates and queues' }
];

/** The password of everybody in the demo. */
export const password = 'corallo-demo';

/** Accounts at the three providers, with credentials their stand-ins know. One of them may not read gateways, which Bussola must say. */
export const accounts = [
  { name: 'corallo-prod', provider: 'levante', keyId: 'LEVK-CORALLO-PROD', secret: 'demo-only-2f9c61d07be84a35' },
  { name: 'corallo-staging', provider: 'levante', keyId: 'LEVK-CORALLO-STAGING', secret: 'demo-only-84b1e7509c3d4f62' },
  { name: 'perla-data', provider: 'ostro', keyId: 'bussola-reader', secret: 'demo-only-ostro-71c0e2' },
  { name: 'fleet-edge', provider: 'maestro', keyId: 'bussola', secret: 'demo-only-maestro-3f81b6d2' }
] as const;

/** Plans that somebody has changed; everything else is collected as usual. */
export const plans: readonly { account: string; service: string; change: Partial<CollectionPlan> }[] = [
  {
    account: 'perla-data',
    service: 'machines',
    change: { leaveOut: { names: ['lab-*'], tags: [], namespaces: [] } }
  },
  { account: 'perla-data', service: 'objects', change: { every: 'PT15M' } },
  { account: 'perla-data', service: 'pipelines', change: { every: 'PT5M', metrics: { kind: 'all' } } },
  { account: 'fleet-edge', service: 'clusters', change: { every: 'PT30S' } },
  { account: 'fleet-edge', service: 'gateways', change: { every: 'PT15S' } }
];

/** One channel was confirmed; the other never was, which Bussola must not hide. */
export const channels = [
  { name: 'Machines on call', address: 'nerea.olmo@example.test', confirmed: true },
  { name: 'Harbour duty', address: 'harbour-duty@example.test', confirmed: false }
] as const;

/** Channels other than mail, all confirmed; addresses of hooks are paths of the stand-ins. */
export const otherChannels: readonly NewChannel[] = [
  { kind: 'email', name: 'Harbour office', address: 'harbour-office@example.test' },
  { kind: 'chat-hook', name: '#bridge', address: '/chat/hooks/T5p0rt-bridge-7Qd2', template: '' },
  { kind: 'webhook', name: 'ferry-desk', address: '/desk/events', mode: 'structured' },
  { kind: 'text-message', name: 'Nerea’s phone', address: '+12025550143' }
];

/** Whether a channel's address is a path of the stand-ins, which have another address whenever they start. */
export const isAtStandIns = ({ kind }: Pick<NewChannel, 'kind'>): boolean => kind === 'chat-hook' || kind === 'webhook';

/** The topic that whoever wants to hear of what fails in the fleet subscribes to, and those who do: one was never confirmed. */
export const topic = {
  name: 'operations',
  subscribers: [
    { kind: 'email', name: 'pier-office@example.test', address: 'pier-office@example.test', confirmed: true },
    { kind: 'text-message', name: '+12025550147', address: '+12025550147', confirmed: true },
    { kind: 'email', name: 'night-desk@example.test', address: 'night-desk@example.test', confirmed: false }
  ]
} as const;

/** The people's own ways to be reached, all confirmed. */
export const contacts: readonly { person: string; channel: NewChannel }[] = [
  { person: 'kaja', channel: { kind: 'email', name: 'Kaja Tamm', address: 'kaja.tamm@example.test' } },
  { person: 'kaja', channel: { kind: 'text-message', name: 'Kaja’s phone', address: '+12025550141' } },
  { person: 'ivo', channel: { kind: 'email', name: 'Ivo Brandt', address: 'ivo.brandt@example.test' } },
  { person: 'ivo', channel: { kind: 'text-message', name: 'Ivo’s phone', address: '+12025550142' } },
  { person: 'oda', channel: { kind: 'email', name: 'Oda Lind', address: 'oda.lind@example.test' } }
];

const zone = 'Europe/Rome';
const min = 60_000;

/**
 * The rotas of Corallo Lines: data by day and by night, the network with nobody on the next Saturday, the fleet, and the leads as the second step.
 *
 * @param people ids by name
 * @param monday the first day of the week of the demo's start, such as 2026-11-23
 */
export const rotas = (people: Readonly<Record<'kaja' | 'nerea' | 'ivo' | 'oda', number>>, monday: string): Rota[] => {
  const { kaja, nerea, ivo, oda } = people;
  const everyDay = [1, 2, 3, 4, 5, 6, 7];
  return [
    {
      name: 'Data',
      zone,
      layers: [
        {
          ...{ name: 'days', people: [nerea, ivo, kaja], days: 7, from: monday, at: '08:00' },
          hours: [{ weekdays: everyDay, from: '08:00', to: '20:00' }]
        },
        {
          ...{ name: 'nights', people: [ivo, nerea], days: 7, from: monday, at: '08:00' },
          hours: [{ weekdays: everyDay, from: '20:00', to: '08:00' }]
        }
      ]
    },
    {
      name: 'Network',
      zone,
      layers: [
        {
          ...{ people: [kaja, oda], days: 7, from: monday, at: '08:00' },
          hours: [
            { weekdays: [1, 2, 3, 4, 5, 7], from: '00:00', to: '00:00' },
            { weekdays: [6], from: '00:00', to: '08:00' },
            { weekdays: [6], from: '20:00', to: '00:00' }
          ]
        }
      ]
    },
    { name: 'Fleet', zone, layers: [{ people: [oda, kaja], days: 7, from: monday, at: '08:00' }] },
    { name: 'Leads', zone, layers: [{ people: [kaja], days: 7, from: monday, at: '08:00' }] }
  ].map((rota) => rotaSchema.parse(rota));
};

/** The routes of Corallo Lines, the last of which takes whatever no other takes. */
export const routes = (
  rotaId: (name: string) => number,
  channelId: (name: string) => number
): readonly { place: 'list' | 'last'; route: Route }[] => {
  const rota = (name: string, ...by: ('email' | 'text-message')[]): Target => ({
    kind: 'rota',
    rotaId: rotaId(name),
    by
  });
  const channel = (name: string): Target => ({ kind: 'channel', channelId: channelId(name) });
  const all = [
    {
      name: 'Data, grave',
      when: { severities: ['critical', 'major'], services: ['databases', 'replication'] },
      steps: [
        { after: 0, notify: [rota('Data', 'text-message', 'email')] },
        { after: 15 * min, notify: [rota('Leads', 'text-message')] }
      ],
      group: { by: 'resource', wait: 0, atMostEvery: 5 * min },
      repeatEvery: 20 * min
    },
    {
      name: 'Network',
      when: { services: ['gateways'] },
      steps: [
        { after: 0, notify: [rota('Network', 'email')] },
        { after: 30 * min, notify: [rota('Leads', 'text-message')] }
      ],
      group: { by: 'region', wait: 0, atMostEvery: 10 * min }
    },
    {
      name: 'Small things at night',
      when: { severities: ['minor', 'warning'], times: { hours: { from: '20:00', to: '08:00' } } },
      steps: [{ after: 0, notify: [channel('#bridge')] }],
      group: { by: 'route', wait: 0, atMostEvery: 0 },
      digestAt: '08:00'
    },
    {
      name: 'Fleet',
      when: { labels: [{ label: 'team', is: ['fleet'] }] },
      steps: [{ after: 0, notify: [rota('Fleet', 'email'), channel('ferry-desk'), channel('operations')] }],
      group: { by: 'alarm', wait: 0, atMostEvery: 15 * min }
    },
    {
      name: 'Leads',
      when: { services: ['budgets'] },
      steps: [{ after: 0, notify: [rota('Leads', 'email')] }],
      group: { by: 'incident', wait: 0, atMostEvery: 0 }
    },
    everythingElse([channel('Machines on call'), channel('#bridge')])
  ];
  return all.map((route, place) => ({
    place: place === all.length - 1 ? 'last' : 'list',
    route: routeSchema.parse({ zone, ...route })
  }));
};

/** The last route, as a workspace begins with it. */
export const everythingElse = (notify: readonly Target[]) => ({
  ...{ name: 'Everything else', when: {}, steps: [{ after: 0, notify }] },
  ...{ group: { by: 'incident', wait: 0, atMostEvery: 0 }, zone }
});
