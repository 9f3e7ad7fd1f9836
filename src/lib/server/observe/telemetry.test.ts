import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { Receiver } from '../../../../tests/support/receiver';
import { until } from '../../../../tests/support/until';
import { loggerOf } from '../base/logger';
import { timed } from '../base/own-counters';
import { QueryQueue } from '../query/query-queue';
import { healthMetrics } from '../intake/own/health-metrics';
import { startTelemetry } from './telemetry';

interface SentSpan {
  readonly name: string;
  readonly traceId: string;
  readonly spanId: string;
  readonly parentSpanId?: string;
  readonly status?: { readonly code?: number };
  readonly attributes: readonly { readonly key: string; readonly value: Record<string, unknown> }[];
}

describe('what Bussola sends of itself by OTLP', function () {
  this.timeout(60_000);
  const house = withHouse();
  const receiver = new Receiver();
  let url = '';
  const lines: string[] = [];
  before(async () => (url = new URL(await receiver.open()).origin));
  after(() => receiver.close());
  beforeEach(() => {
    receiver.received.length = lines.length = 0;
    receiver.answer = 200;
  });

  const start = (share: number, to = url, metricsEveryMs = 60_000) =>
    startTelemetry({
      ...house.bussola,
      log: loggerOf({ logLevel: 'warn', secrets: [] }, (line) => void lines.push(line)),
      to: { url: to, headers: { authorization: 'Bearer abc' }, share },
      ...{ instance: 'bussola-1', metricsEveryMs }
    });
  const bodies = (path: string) =>
    receiver.received.filter((one) => one.path === path).map(({ body }) => JSON.parse(body) as never);
  const spans = (): SentSpan[] =>
    bodies('/v1/traces')
      .flatMap(({ resourceSpans }) => resourceSpans as { scopeSpans: { spans: SentSpan[] }[] }[])
      .flatMap(({ scopeSpans }) => scopeSpans.flatMap((scope) => scope.spans));
  const attribute = (span: SentSpan | undefined, name: string): unknown =>
    Object.values(span?.attributes.find(({ key }) => key === name)?.value ?? {})[0];

  it('is a trace of each piece of work, with the statements that it ran and none of their values', async () => {
    const telemetry = start(1);
    await timed(
      'requests',
      async (span) => {
        span.updateName('GET /boards/[id=number]');
        await house.bussola.db.rows('select $1::text as secret', ['of-nobodys-business']);
      },
      { attributes: { 'http.request.method': 'GET' } }
    );
    await timed('pulls', () => Promise.reject(new TypeError('with a secret in it'))).catch((error: unknown) =>
      expect(String(error)).to.contain('with a secret')
    );
    await house.bussola.db.rows('select 2 as alone');
    await telemetry.stop();
    const [request, statement] = ['GET /boards/[id=number]', 'statement'].map((name) =>
      spans().find((span) => span.name === name)
    );
    expect(statement).to.include({ traceId: request?.traceId, parentSpanId: request?.spanId });
    expect(request?.parentSpanId ?? '').to.equal('');
    expect(attribute(request, 'http.request.method')).to.equal('GET');
    expect(attribute(statement, 'db.query.text')).to.equal('select $1::text as secret');
    expect(spans().find(({ name }) => name === 'pull')?.status?.code).to.equal(2);
    // What is run all the time to look whether something is to be done is of no interest.
    expect(spans().filter(({ name, parentSpanId }) => name === 'statement' && !parentSpanId)).to.deep.equal([]);
    const all = receiver.received.map(({ body }) => body).join();
    for (const secret of ['of-nobodys-business', 'with a secret']) expect(all).not.to.contain(secret);
    for (const { headers } of receiver.received) {
      expect(headers.authorization).to.equal('Bearer abc');
      expect(headers['content-type']).to.equal('application/json');
    }
    expect(all).to.contain('service.instance.id').and.to.contain('bussola-1');
  });

  it('has a query in the trace of whoever asked, though it waited for somebody else’s', async () => {
    const telemetry = start(1);
    const queue = new QueryQueue({ atOnce: 1 });
    const ask = (name: string) =>
      timed('requests', (span) => {
        span.updateName(name);
        return queue.ask({ name }, name, () => house.bussola.db.rows('select $1::text as asked', [name]));
      });
    await Promise.all(['first', 'second', 'third'].map(ask));
    await telemetry.stop();
    const of = (name: string) => spans().filter((span) => span.name === name);
    const queries = of('query');
    expect(queries).to.have.length(3);
    for (const name of ['first', 'second', 'third']) {
      const [request] = of(name);
      const [query, ...others] = queries.filter(({ parentSpanId }) => parentSpanId === request?.spanId);
      expect([query?.traceId, others.length], name).to.deep.equal([request?.traceId, 0]);
      expect(of('statement').filter(({ parentSpanId }) => parentSpanId === query?.spanId)).to.have.length(1);
    }
  });

  it('is a share of traces, none of them in part', async () => {
    const telemetry = start(0.5);
    for (let index = 0; index < 200; index++) await timed('requests', () => timed('queries', () => Promise.resolve()));
    await telemetry.stop();
    const roots = spans().filter(({ name }) => name === 'request');
    // Of 200 at a half, fewer than 60 or more than 140 come once in a hundred million times.
    expect(roots.length).to.be.within(60, 140);
    expect(spans().filter(({ name }) => name === 'query')).to.have.length(roots.length);
    receiver.received.length = 0;
    const none = start(0);
    await timed('requests', () => Promise.resolve());
    await none.stop();
    expect(spans()).to.deep.equal([]);
  });

  it('is every figure that it measures, with its unit', async () => {
    const telemetry = start(0, url, 300);
    await until('figures', () => bodies('/v1/metrics').length > 0);
    await telemetry.stop();
    const metrics = bodies('/v1/metrics')
      .flatMap(
        ({ resourceMetrics }) =>
          resourceMetrics as { scopeMetrics: { metrics: { name: string; unit: string; sum?: object }[] }[] }[]
      )
      .flatMap(({ scopeMetrics }) => scopeMetrics.flatMap((scope) => scope.metrics));
    const sent = new Map(metrics.map((metric) => [metric.name, metric]));
    expect(sent.get('bussola.memory')?.unit).to.equal('By');
    expect(sent.get('bussola.statements')?.sum).to.include({ isMonotonic: true });
    const known = new Set(healthMetrics.map(({ name }) => name));
    expect(sent.size).to.be.above(20);
    for (const name of sent.keys()) expect(known.has(name), name).to.equal(true);
  });

  it('is lost where the receiver is away or refuses it: one line of the log, and nothing waits', async () => {
    receiver.answer = 400;
    const telemetry = start(1, url, 100);
    for (let index = 0; index < 5; index++) await timed('requests', () => Promise.resolve());
    await until('a warning', () => lines.some((line) => line.includes('telemetry could not be sent')));
    await telemetry.stop();
    expect(lines.length).to.be.within(1, 4);
    expect(lines.join()).not.to.contain('Bearer abc');
    const away = start(1, 'http://127.0.0.1:9', 60_000);
    await timed('requests', () => Promise.resolve());
    await away.stop(); // within the time of this test
  });
});
