import { from, to, type Examples } from './example';

const pages = {
  find: {
    by: 'list',
    targets: [{ url: 'http://gate-api-1.corallo.example.test:9464/metrics', labels: { site: 'harbour' } }]
  },
  ...{ everySeconds: 15, rules: [{ does: 'leave out', label: null, is: 'like', pattern: 'debug.*' }] }
};
const connector = `kind: connector
version: 1
key: tidal
name: Tidal
about: Gauges of the tide.

guide:
  endpoint: Address of Tidal’s interface
  key: Name of the key
  secret: Secret
  steps: [At Tidal, make a key that may read.]

signIn: { by: basic }

resources:
  request: { path: /gauges }
  each: gauges
  map: '{ "id": id, "name": name, "type": "machine", "region": harbour }'

metrics:
  request: { path: /kinds }
  each: kinds
  map: '{ "name": "tidal." & code, "title": says, "unit": unit, "kind": "gauge", "resourceType": "machine" }'

points:
  by: metric
  request:
    path: /levels/{code}{?begin,end}
    with: { code: '$substringAfter($metric, ".")', begin: $from, end: $to }
  each: gauges
  map: '{ "resource": id, "metric": $metric, "times": at, "values": level }'
`;
const access = { endpoint: 'https://tidal.example.test', keyId: 'bussola', secret: 'made-up' };
const plan = {
  ...{ version: 1, collect: 'all', every: 'PT1M', metrics: { kind: 'recommended' } },
  leaveOut: { names: ['test-*'], tags: [], namespaces: [] },
  keep: { sampleDays: 30, fiveMinuteDays: 400, hourDays: 1830 }
};
const budget = {
  ...{ name: 'Machines of a month', filters: [{ by: 'service', values: ['machines'] }], amount: 4000, currency: 'EUR' },
  ...{ period: { kind: 'month' }, on: 'expected' },
  levels: [
    { severity: 'minor', percent: 90 },
    { severity: 'major', percent: 100 }
  ]
};

const focus = [
  'BilledCost,BillingAccountId,BillingAccountName,BillingCurrency,BillingPeriodEnd,BillingPeriodStart,ChargeCategory,ChargePeriodEnd,ChargePeriodStart,EffectiveCost,ProviderName,ServiceName',
  '12.5,77,elsewhere,EUR,2026-06-01T00:00:00Z,2026-05-01T00:00:00Z,Usage,2026-05-02T00:00:00Z,2026-05-01T00:00:00Z,12.5,Elsewhere,Machines',
  ''
].join('\n');

/** What is read from where, what it costs, and how it is stored. */
export const sourceExamples: Examples = {
  'POST /accounts/pages': { body: { name: 'gate-pages', definition: pages, secret: '' } },
  'PUT /accounts/{id}/pages': { body: { definition: { ...pages, everySeconds: 30 } } },
  'POST /accounts/pages/try': { body: { definition: pages } },
  'DELETE /accounts/{id}': { query: { history: 'keep' } },
  'POST /accounts/{id}/estimate': { body: { service: 'machines', plan } },
  'GET /accounts/{id}/retention': {
    query: { service: 'machines', sampleDays: '30', fiveMinuteDays: '400', hourDays: '1830' }
  },
  'POST /connectors': { body: { text: connector } },
  'PUT /connectors/{id}': { body: { text: connector.replace('of the tide', 'of tide and wind'), version: 1 } },
  'POST /connectors/check': { body: { text: connector } },
  'POST /connectors/try': { body: { text: connector, access, part: 'resources' } },
  'POST /connectors/{id}/recordings': { body: { text: connector, access, part: 'resources', name: 'Two gauges' } },
  'POST /connectors/{id}/test': { body: { text: connector } },
  'PUT /backups/plan': {
    body: {
      plan: { enabled: true, every: 'day', weekday: 1, at: '02:30', zone: 'Europe/Lisbon', stay: 14, rehearse: 'week' },
      version: null
    }
  },
  'POST /costs/query': { body: { month: '2026-05', by: 'service' } },
  'PUT /costs/rates': { body: { currency: 'USD', from: '2026-05-01', rate: 0.92 } },
  'DELETE /costs/rates': { query: { currency: 'USD', from: '2026-05-01' } },
  'PUT /costs/currency': { body: { currency: 'EUR' } },
  'GET /bills/focus': { query: { month: '2026-05' } },
  'POST /bills/preview': { texts: { 'application/octet-stream': focus } },
  'POST /bills/import': { query: { accounts: '{"elsewhere":1}' }, texts: { 'application/octet-stream': focus } },
  'POST /receive/lines': {
    texts: {
      'application/x-ndjson': `{"time":"${from}","msg":"out of memory","level":"error","resource":"gate-api-1"}\n`
    }
  },
  'POST /receive/events': {
    texts: {
      'application/cloudevents+json': JSON.stringify({
        ...{ specversion: '1.0', id: 'r-124', source: '/releases', type: 'com.corallo.release.finished' },
        ...{ subject: 'gate-api-1', time: from, data: { version: '12.4' } }
      })
    }
  },
  'POST /receive/marks': { body: { text: 'Version 12.4 of the gates', from, service: 'machines' } },
  'POST /receive/{format}': {
    texts: {
      'application/openmetrics-text':
        '# TYPE gate_cycles counter\ngate_cycles_total{resource="gate-api-1"} 17\n# EOF\n',
      'text/csv': `metric,at,value,resource\ngate.cycles,${from},17,gate-api-1\n`,
      'application/x-ndjson': `{"metric":"gate.cycles","at":"${from}","value":17,"resource":"gate-api-1"}\n`
    }
  },
  'POST /budgets': { body: budget },
  'PUT /budgets/{id}': { body: { budget: { ...budget, amount: 4500 }, version: 1 } },
  'POST /budgets/try': { body: budget },
  'GET /lines': { query: { from, to, search: 'severity >= warning' } }
};
