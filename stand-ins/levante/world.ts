/** What exists at Levante: the machines of Corallo Lines and the metrics that machines report. All of it is made up. */
export interface Machine {
  readonly id: string;
  readonly account: string;
  readonly name: string;
  readonly type: 'machine';
  readonly region: string;
  readonly tags: Readonly<Record<string, string>>;
  /** What it does, which decides the shape of its load. */
  readonly role: 'web' | 'gate' | 'desk' | 'display' | 'tariff';
}

export interface MachineMetric {
  readonly name: string;
  readonly title: string;
  readonly description: string;
  readonly kind: 'gauge';
  readonly unit: string;
  readonly shape: 'summary';
  readonly samplingSeconds: number;
  /** The longest time from the end of a minute to its point being there. */
  readonly delaySeconds: number;
}

export const metrics: readonly MachineMetric[] = [
  ['machine.processor.use', 'Processor use', '%', 'Share of the machine’s processor time in use.'],
  ['machine.memory.use', 'Memory use', '%', 'Share of the machine’s memory in use.'],
  ['machine.network.in', 'Network in', 'By/s', 'Bytes received each second.'],
  ['machine.network.out', 'Network out', 'By/s', 'Bytes sent each second.'],
  ['machine.disk.write', 'Disk writes', 'By/s', 'Bytes written to the machine’s disks each second.']
].map(([name = '', title = '', unit = '', description = '']) => ({
  name,
  title,
  unit,
  description,
  kind: 'gauge',
  shape: 'summary',
  samplingSeconds: 60,
  delaySeconds: 50
}));

const machine = (account: string, region: string, role: Machine['role'], name: string): Machine => ({
  id: `lev-m-${account === 'corallo-prod' ? 'p' : 's'}-${name}`,
  account,
  name,
  type: 'machine',
  region,
  tags: { team: teams[role], stage: account === 'corallo-prod' ? 'production' : 'staging' },
  role
});

const teams: Record<Machine['role'], string> = {
  web: 'booking',
  gate: 'gates',
  desk: 'freight',
  display: 'quays',
  tariff: 'tariffs'
};

export const machines: readonly Machine[] = [
  machine('corallo-prod', 'perla-1', 'web', 'booking-web-1'),
  machine('corallo-prod', 'perla-1', 'web', 'booking-web-2'),
  machine('corallo-prod', 'sella-1', 'web', 'booking-web-3'),
  machine('corallo-prod', 'sella-1', 'web', 'booking-web-4'),
  machine('corallo-prod', 'perla-1', 'gate', 'gate-api-1'),
  machine('corallo-prod', 'sella-1', 'gate', 'gate-api-2'),
  machine('corallo-prod', 'perla-1', 'desk', 'freight-desk-1'),
  machine('corallo-prod', 'perla-1', 'display', 'quay-display-1'),
  machine('corallo-prod', 'perla-1', 'tariff', 'tariff-worker-1'),
  machine('corallo-prod', 'sella-1', 'tariff', 'tariff-worker-2'),
  machine('corallo-staging', 'perla-1', 'web', 'booking-web-s1'),
  machine('corallo-staging', 'perla-1', 'gate', 'gate-api-s1'),
  machine('corallo-staging', 'perla-1', 'desk', 'freight-desk-s1'),
  machine('corallo-staging', 'sella-1', 'tariff', 'tariff-worker-s1')
];

/** A key pair that Levante gave out, and what it may do. */
export interface Credential {
  readonly keyId: string;
  readonly secret: string;
  readonly account: string;
  readonly rights: readonly ('resources.list' | 'metrics.read')[];
}

export const credentials: readonly Credential[] = [
  {
    keyId: 'LEVK-CORALLO-PROD',
    secret: 'demo-only-2f9c61d07be84a35',
    account: 'corallo-prod',
    rights: ['resources.list', 'metrics.read']
  },
  {
    keyId: 'LEVK-CORALLO-STAGING',
    secret: 'demo-only-84b1e7509c3d4f62',
    account: 'corallo-staging',
    rights: ['resources.list', 'metrics.read']
  },
  {
    keyId: 'LEVK-CORALLO-LISTONLY',
    secret: 'demo-only-c05d3a9912f74e08',
    account: 'corallo-prod',
    rights: ['resources.list']
  }
];
