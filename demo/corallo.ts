import type { NewChannel } from '../src/lib/core/notify';
import type { CollectionPlan } from '../src/lib/core/intake';
import type { Role } from '../src/lib/core/people/rights';

/** The made-up people of Corallo Lines. */
export const people: readonly { name: string; displayName: string; role: Role; zone: string }[] = [
  { name: 'kaja', displayName: 'Kaja Tamm', role: 'administrator', zone: 'UTC' },
  { name: 'nerea', displayName: 'Nerea Olmo', role: 'editor', zone: 'UTC' },
  { name: 'ivo', displayName: 'Ivo Brandt', role: 'editor', zone: 'UTC' },
  { name: 'oda', displayName: 'Oda Lind', role: 'viewer', zone: 'UTC' }
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
  { kind: 'chat-hook', name: '#bridge', address: '/chat/hooks/T5p0rt-bridge-7Qd2', template: '' },
  { kind: 'webhook', name: 'ferry-desk', address: '/desk/events', mode: 'structured' },
  { kind: 'text-message', name: 'Nerea’s phone', address: '+12025550143' }
];
