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

/** Accounts at Levante with the keys its stand-in knows. */
export const accounts = [
  { name: 'corallo-prod', keyId: 'LEVK-CORALLO-PROD', secret: 'demo-only-2f9c61d07be84a35' },
  { name: 'corallo-staging', keyId: 'LEVK-CORALLO-STAGING', secret: 'demo-only-84b1e7509c3d4f62' }
] as const;

/** One channel was confirmed; the other never was, which Bussola must not hide. */
export const channels = [
  { name: 'Machines on call', address: 'nerea.olmo@example.test', confirmed: true },
  { name: 'Harbour duty', address: 'harbour-duty@example.test', confirmed: false }
] as const;
