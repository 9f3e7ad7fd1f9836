// What the fuzz campaign sends: good samples of each format, changed by chance.
import { gzipSync } from 'node:zlib';
import { Random } from '../support/random';
import { changed, changedBytes, changedJson, nasty } from './fuzz-changes';

/** A request that is to be refused or taken, but never to break anything. */
export interface FuzzInput {
  readonly path: string;
  readonly method: 'GET' | 'POST';
  readonly headers: Readonly<Record<string, string>>;
  readonly body: Buffer | null;
  /** Whether it is sent with a person's session instead of a key. */
  readonly asPerson: boolean;
}

const nanos = (now: number, minutes: number): string => `${BigInt(now - minutes * 60_000) * 1_000_000n}`;

function otlp(random: Random, now: number): unknown {
  const attributes = [
    { key: 'lane', value: { stringValue: '1' } },
    { key: 'ports', value: { arrayValue: { values: [{ intValue: '1' }, { doubleValue: 2.5 }] } } }
  ];
  const points = Array.from({ length: 1 + random.below(4) }, (_, i) => ({
    attributes,
    startTimeUnixNano: nanos(now, 10 + i),
    timeUnixNano: nanos(now, i),
    ...random.of<object>([{ asDouble: 1.5 }, { asInt: '7' }, { asDouble: '1.5' }])
  }));
  const histogram = {
    aggregationTemporality: 2,
    dataPoints: [
      {
        attributes,
        startTimeUnixNano: nanos(now, 9),
        timeUnixNano: nanos(now, 1),
        count: '3',
        sum: 6,
        bucketCounts: ['1', '1', '1'],
        explicitBounds: [1, 2]
      }
    ]
  };
  const metrics = [
    { name: 'gate.scans', unit: '{scan}', sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints: points } },
    { name: 'gate.temperature', unit: 'Cel', description: 'how warm', gauge: { dataPoints: points } },
    { name: 'gate.wait', unit: 'ms', histogram }
  ];
  return {
    resourceMetrics: [
      {
        resource: { attributes: [{ key: 'service.name', value: { stringValue: 'gate' } }] },
        scopeMetrics: [{ scope: { name: 'fuzz' }, metrics: [random.of(metrics)] }]
      }
    ]
  };
}

const openMetrics = (now: number): string =>
  [
    '# TYPE open_door gauge',
    '# UNIT open_door seconds',
    '# HELP open_door how long a "door" is open',
    `open_door{resource="gate-1",lane="a\\"b\\\\c"} 1.5 ${now / 1000 - 60}`,
    '# TYPE scans counter',
    `scans_total{resource="gate-1"} 17 ${now / 1000 - 60} # {trace_id="abc"} 1.0 ${now / 1000 - 61}`,
    '# TYPE wait histogram',
    ...['1', '2', '+Inf'].map((le, i) => `wait_bucket{resource="gate-1",le="${le}"} ${i + 1} ${now / 1000 - 60}`),
    `wait_sum{resource="gate-1"} 4 ${now / 1000 - 60}`,
    `wait_count{resource="gate-1"} 3 ${now / 1000 - 60}`,
    '# EOF',
    ''
  ].join('\n');

const csv = (now: number): string =>
  [
    'at,metric,value,resource,unit,label.lane',
    `${new Date(now - 60_000).toISOString()},gate.scans,17,gate-1,{scan},1`,
    `${new Date(now - 120_000).toISOString()},"gate.wait",1.5,"gate ""2""",ms,"a,b"`,
    ''
  ].join('\n');

const lines = (now: number): string =>
  [
    {
      at: new Date(now - 60_000).toISOString(),
      metric: 'gate.scans',
      value: 17,
      resource: 'gate-1',
      labels: { lane: '1' }
    },
    { at: new Date(now - 120_000).toISOString(), metric: 'gate.wait', value: 1.5, resource: 'gate-2', unit: 'ms' }
  ]
    .map((line) => JSON.stringify(line))
    .join('\n');

const signal = {
  version: 2,
  step: 'PT1M',
  rows: [
    {
      name: 'a',
      metric: 'gate.scans',
      where: [
        { label: 'resource', is: ['gate-1'] },
        { label: 'lane', matches: '^[0-9]+$' }
      ],
      statistic: 'avg',
      combine: { statistic: 'sum', by: ['resource'] }
    },
    { name: 'b', metric: 'gate.*', where: [], statistic: 'max' },
    { name: 'c', formula: 'a / 2 + max(a, 3)' }
  ]
};

const boardFile = `kind: board
version: 1
title: Tickets
about: What sells, and what does not
pickers:
  - { name: account, label: account, title: Account, usual: [corallo-prod], several: true }
sections:
  - { id: s1, title: Sales }
panels:
  - id: p1
    title: Scans
    place: { x: 0, y: 0, w: 6, h: 4 }
    picture: lines
    signal: { version: 2, step: PT1M, rows: [{ name: a, metric: gate.scans, where: [], statistic: avg }] }
  - { id: p2, title: Words, place: { x: 6, y: 0, w: 6, h: 4 }, picture: text, text: 'Call **ivo**' }
`;

const json = (value: unknown): string => JSON.stringify(value) ?? 'null';

type Maker = (random: Random, now: number) => Partial<FuzzInput> & { readonly path: string; readonly text?: string };

const span = (now: number) => ({
  from: new Date(now - 3_600_000).toISOString(),
  to: new Date(now).toISOString()
});

const received =
  (path: string, type: string, make: (random: Random, now: number) => string): Maker =>
  (random, now) => ({
    path,
    text: changed(random, make(random, now)),
    headers: { 'content-type': random.below(40) === 0 ? random.of(nasty).replace(/[^\x20-\x7e]/g, 'x') || 'x' : type }
  });

const asked =
  (path: string, make: (random: Random, now: number) => unknown): Maker =>
  (random, now) => {
    const text = json(changedJson(random, make(random, now)));
    return {
      path,
      text: random.below(4) === 0 ? changed(random, text) : text,
      headers: { 'content-type': 'application/json' },
      asPerson: true
    };
  };

const cloudEvents = (now: number): unknown[] => [
  {
    ...{ specversion: '1.0', id: 'r-17', source: '/release-robot', type: 'test.corallo.release.failed' },
    ...{ subject: 'booking-web-1', time: new Date(now - 60_000).toISOString(), stage: 'prod' },
    data: { message: 'two copies did not answer', version: { name: '2.9', parts: [1, 2] }, canary: false }
  },
  { specversion: '1.0', id: 'r-18', source: '/release-robot', type: 'test.corallo.release.finished', data: 'text' }
];

/** How an input of each format is made. */
export const formats: Readonly<Record<string, Maker>> = {
  events: received('/api/v1/receive/events', 'application/cloudevents-batch+json', (random, now) =>
    json(changedJson(random, cloudEvents(now)))
  ),
  'otlp-json': received('/otlp/v1/metrics', 'application/json', (random, now) =>
    json(changedJson(random, otlp(random, now)))
  ),
  'otlp-protobuf': (random) => ({
    path: '/otlp/v1/metrics',
    body: changedBytes(random, random.of(protobufSamples)),
    headers: { 'content-type': 'application/x-protobuf' }
  }),
  openmetrics: received('/api/v1/receive/openmetrics', 'text/plain', (_random, now) => openMetrics(now)),
  csv: received('/api/v1/receive/csv', 'text/csv', (_random, now) => csv(now)),
  ndjson: received('/api/v1/receive/ndjson', 'application/x-ndjson', (_random, now) => lines(now)),
  marks: received('/api/v1/receive/marks', 'application/json', (random, now) =>
    json(changedJson(random, { text: 'Version 7', ...span(now), service: 'machines' }))
  ),
  'board file': asked('/api/v1/boards/plan', (random) => ({ text: changed(random, boardFile) })),
  query: asked('/api/v1/query', (_random, now) => ({ signal, ...span(now), cells: 100 })),
  queries: asked('/api/v1/queries', (_random, now) => ({ signals: [signal, signal], ...span(now), cells: 100 })),
  address: (random) => {
    const part = () => encodeURIComponent(changed(random, random.of(['1', 'gate.scans', 'x', ''])).toWellFormed());
    return {
      path: random
        .of([
          `/api/v1/metrics/${part()}`,
          `/api/v1/metrics?text=${part()}&limit=${part()}&cursor=${part()}`,
          `/api/v1/marks?from=${part()}&to=${part()}`,
          `/api/v1/boards/${part()}`,
          `/api/v1/resources/${part()}`,
          `/api/v1/signals/${part()}`,
          `/api/v1/receive/${part()}`,
          `/confirm/${part()}`
        ])
        .slice(0, 6_000),
      method: 'GET',
      asPerson: true
    };
  }
};

/** Good messages in protobuf, as real clients encode them. Set before the format is used. */
let protobufSamples: readonly Buffer[] = [];
export const setProtobufSamples = (samples: readonly Buffer[]): void => void (protobufSamples = samples);

/**
 * One input of a format, decided by its seed alone.
 *
 * @example fuzzInput('csv', 7, now).path // '/api/v1/receive/csv'
 */
export function fuzzInput(format: string, seed: number, now: number): FuzzInput {
  const random = new Random(seed);
  const make = formats[format];
  if (make === undefined) throw new Error(`fuzzInput: there is no format ${format}`);
  const { text, ...made } = make(random, now);
  const plain = made.body ?? (text === undefined ? null : Buffer.from(text));
  const isPacked = plain !== null && made.asPerson !== true && random.below(10) === 0;
  const packed = isPacked ? changedBytes(random, gzipSync(plain)) : plain;
  return {
    method: 'POST',
    asPerson: false,
    ...made,
    headers: { ...made.headers, ...(isPacked ? { 'content-encoding': 'gzip' } : {}) },
    body: packed
  };
}
