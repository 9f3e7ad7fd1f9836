import { metrics } from '@opentelemetry/api';
import { OTLPMetricExporter as JsonExporter } from '@opentelemetry/exporter-metrics-otlp-http';
import { OTLPMetricExporter as ProtobufExporter } from '@opentelemetry/exporter-metrics-otlp-proto';
import { OTLPLogExporter as JsonLogExporter } from '@opentelemetry/exporter-logs-otlp-http';
import { OTLPLogExporter as ProtobufLogExporter } from '@opentelemetry/exporter-logs-otlp-proto';
import { BatchLogRecordProcessor, LoggerProvider } from '@opentelemetry/sdk-logs';
import { resourceFromAttributes } from '@opentelemetry/resources';
import { MeterProvider, PeriodicExportingMetricReader } from '@opentelemetry/sdk-metrics';
import { expect } from 'chai';
import { gzipSync } from 'node:zlib';
import type { Browser, Page } from 'playwright-core';
import { plainSignal } from '../../src/lib/core/signal';
import { makeKey } from '../../src/lib/server/intake/receive/keys';
import { startApp, type RunningApp } from '../support/app';
import { openBrowser } from '../support/chromium';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';

describe('receiving from other programs', () => {
  let app: RunningApp;
  let browser: Browser;
  let page: Page;
  let key: string;
  const headers = () => ({ authorization: `Bearer ${key}` });
  const send = (path: string, body: string | Buffer, more: Record<string, string> = {}) =>
    fetch(app.origin + path, { method: 'POST', body: body as never, headers: { ...headers(), ...more } });
  const stored = (metric: string) =>
    app.db.rows<{ resource: string; labels: Record<string, string>; kind: string; unit: string; points: number }>(
      `select resources.name as resource, series.labels, metrics.kind, metrics.unit
       from series
       join resources on resources.id = series.resource_id
       join metrics on metrics.provider = 'pushed' and metrics.account_id = series.account_id and metrics.name = series.metric
       where series.metric = $1
       order by resources.name, series.id`,
      [metric]
    );
  /** The last value of each series of a metric, as the API gives it. */
  async function lastValues(metric: string): Promise<number[]> {
    const answer = await page.request.post(`${app.origin}/api/v1/query`, {
      data: {
        signal: plainSignal({ metric, statistic: 'last' }),
        from: new Date(Date.parse('2020-01-01T00:00:00Z') > 0 ? app.clock.now() - 3_600_000 : 0).toISOString(),
        to: new Date(app.clock.now() + 120_000).toISOString()
      }
    });
    const { series } = (await answer.json()) as { series: { values: (number | null)[] }[] };
    return series.map(({ values }) => values.findLast((value) => value !== null) ?? NaN);
  }

  before(async function () {
    this.timeout(240_000);
    app = await startApp({ at: new Date(Math.floor(performance.timeOrigin + performance.now())).toISOString() });
    browser = await openBrowser();
    ({ page } = await signedIn(browser, app, 'nerea'));
  });
  after(async function () {
    this.timeout(90_000);
    metrics.disable();
    await browser.close();
    await app.stop();
  });

  it('a key is made on its page and shown once', async () => {
    await page.goto(`${app.origin}/receive`);
    await page.getByLabel('Name of the key and its account').fill('gate-sensors');
    await page.getByLabel('Most series').fill('80');
    await page.getByRole('button', { name: 'Make key' }).click();
    key = await page.getByTestId('made-key').innerText();
    expect(key).to.match(/^bussola-\S{32}$/);
    await page.reload();
    expect(await page.locator('body').innerText()).not.to.contain(key);
    const [row] = await app.db.rows<{ hash: Buffer }>('select hash from keys');
    expect(row?.hash.includes(key)).to.equal(false);
  });

  for (const [kind, Exporter] of [
    ['JSON', JsonExporter],
    ['protobuf', ProtobufExporter]
  ] as const)
    it(`what a real client pushes as ${kind} comes back equal`, async () => {
      const exporter = new Exporter({ url: `${app.origin}/otlp/v1/metrics`, headers: headers() });
      const reader = new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 3_600_000 });
      const provider = new MeterProvider({
        resource: resourceFromAttributes({ 'service.name': `gate-${kind}` }),
        readers: [reader]
      });
      const meter = provider.getMeter('test');
      meter.createCounter(`${kind}.scans`, { unit: '{scan}' }).add(17, { lane: '1' });
      meter.createGauge(`${kind}.temperature`, { unit: 'Cel' }).record(-2.75);
      const waits = meter.createHistogram(`${kind}.wait`, { unit: 'ms' });
      for (const wait of [4, 8, 15]) waits.record(wait);
      await provider.forceFlush();
      await provider.shutdown();
      expect(await lastValues(`${kind}.scans`)).to.deep.equal([17]);
      expect(await lastValues(`${kind}.temperature`)).to.deep.equal([-2.75]);
      expect(await lastValues(`${kind}.wait.sum`)).to.deep.equal([27]);
      expect(await lastValues(`${kind}.wait.count`)).to.deep.equal([3]);
      expect(await stored(`${kind}.scans`)).to.deep.equal([
        { resource: `gate-${kind}`, labels: { lane: '1', scope: 'test' }, kind: 'cumulative', unit: '{scan}' }
      ]);
      expect((await stored(`${kind}.temperature`))[0]).to.deep.include({ kind: 'gauge', unit: 'Cel' });
    });

  for (const [kind, Exporter] of [
    ['JSON', JsonLogExporter],
    ['protobuf', ProtobufLogExporter]
  ] as const)
    it(`every log record that a real client pushes as ${kind} comes back equal`, async () => {
      const exporter = new Exporter({ url: `${app.origin}/otlp/v1/logs`, headers: headers() });
      const provider = new LoggerProvider({
        resource: resourceFromAttributes({ 'service.name': `log-${kind}`, 'service.version': '2.9' }),
        processors: [new BatchLogRecordProcessor({ exporter, maxExportBatchSize: 50 })]
      });
      const logger = provider.getLogger('gate', '7');
      const began = app.clock.now() - 120_000;
      const sent = Array.from({ length: 120 }, (_, index) => ({
        timestamp: began + index,
        severityNumber: 1 + (index % 24),
        severityText: `level ${index % 24}`,
        body: `ticket ${index} accepted`,
        attributes: { gate: index, share: index / 8 + 0.01, isLate: index % 2 === 0, lanes: ['a', 'b'] }
      }));
      for (const record of sent) logger.emit(record);
      await provider.forceFlush();
      await provider.shutdown();
      const read = async <Answer>(path: string): Promise<Answer> =>
        page.evaluate(
          async (address) => (await (await fetch(address)).json()) as unknown,
          `/api/v1${path}`
        ) as Promise<Answer>;
      const query = new URLSearchParams({ search: `stream = log-${kind}`, limit: '1000' });
      const { lines } = await read<{ lines: { key: string }[] }>(`/lines?${query}`);
      expect(lines).to.have.length(sent.length);
      for (const [index, { key: one }] of lines.toReversed().entries()) {
        const { body, severityNumber, severityText, timestamp, attributes } = sent[index]!;
        const line = await read<Record<string, unknown>>(`/lines/${one}`);
        expect(line).to.include({ text: body, severity: severityNumber, severityText });
        expect(Date.parse(String(line['at']))).to.equal(timestamp);
        expect(line['fields']).to.deep.equal([
          { name: 'gate', kind: 'whole number', value: String(attributes.gate) },
          { name: 'share', kind: 'number', value: String(attributes.share) },
          { name: 'isLate', kind: 'yes or no', value: String(attributes.isLate) },
          { name: 'lanes', kind: 'list', value: '["a","b"]' }
        ]);
        expect(line['origin']).to.deep.include({ name: 'service.version', kind: 'text', value: '2.9' });
        expect(line['origin']).to.deep.include({ name: 'scope', kind: 'text', value: 'gate' });
      }
    });

  it('takes OpenMetrics, CSV and JSON lines, packed or not, and names the line at fault', async () => {
    const seconds = Math.floor(app.clock.now() / 1000) - 60;
    const open = await send(
      '/api/v1/receive/openmetrics',
      gzipSync(`# TYPE open_door gauge\nopen_door{resource="gate-1"} 1 ${seconds}\nopen_door x\n# EOF\n`),
      { 'content-encoding': 'gzip', 'content-type': 'text/plain' }
    );
    expect(await open.json()).to.deep.equal({
      accepted: 1,
      rejected: 1,
      reasons: { 'cannot be read': 1 },
      faults: ['Line 3 "x" is no number: open_door x']
    });
    const csv = await send('/api/v1/receive/csv', `metric,at,value,resource\ncsv.depth,${seconds}000,5,q\n`, {
      'content-type': 'text/csv'
    });
    expect(await csv.json()).to.deep.include({ accepted: 1, rejected: 0 });
    const lines = await send('/api/v1/receive/ndjson', `{"metric":"nd.depth","at":${seconds}000,"value":6}\n`);
    expect(await lines.json()).to.deep.include({ accepted: 1 });
    expect([await lastValues('open_door'), await lastValues('csv.depth'), await lastValues('nd.depth')]).to.deep.equal([
      [1],
      [5],
      [6]
    ]);
    expect((await send('/api/v1/receive/ndjson', 'x')).status).to.equal(422);
    expect((await send('/api/v1/receive/morse', 'x')).status).to.equal(404);
    expect((await send('/api/v1/receive/csv', 'x', { 'content-encoding': 'gzip' })).status).to.equal(400);
    expect((await send('/api/v1/receive/csv', Buffer.from('x'))).status).to.equal(415);
    expect(
      (await send('/otlp/v1/metrics', Buffer.from([255, 255]), { 'content-type': 'application/x-protobuf' })).status
    ).to.equal(400);
    expect(
      (await send('/otlp/v1/metrics', '{"resourceMetrics":7}', { 'content-type': 'application/json' })).status
    ).to.equal(400);
  });

  it('takes no more series than the key may have, and says so as a partial success', async () => {
    const seconds = app.clock.now() - 60_000;
    const dataPoints = Array.from({ length: 60 }, (_, i) => ({
      timeUnixNano: `${seconds}000000`,
      asInt: String(i),
      attributes: [{ key: 'n', value: { intValue: String(i) } }]
    }));
    const answer = await send(
      '/otlp/v1/metrics',
      JSON.stringify({ resourceMetrics: [{ scopeMetrics: [{ metrics: [{ name: 'many', gauge: { dataPoints } }] }] }] }),
      { 'content-type': 'application/json' }
    );
    const { partialSuccess } = (await answer.json()) as {
      partialSuccess: { rejectedDataPoints: string; errorMessage: string };
    };
    expect(answer.status).to.equal(200);
    const kept = (await lastValues('many')).length;
    expect(kept).to.be.within(1, 59);
    expect(partialSuccess.rejectedDataPoints).to.equal(String(60 - kept));
    expect(partialSuccess.errorMessage).to.contain('may have 80 series');
  });

  it('refuses of an OTLP request the points at fault, each with its reason, and takes the others', async () => {
    const at = `${BigInt(app.clock.now() - 60_000) * 1_000_000n}`;
    const ahead = `${BigInt(app.clock.now() + 3_600_000) * 1_000_000n}`;
    const gauge = (name: string, dataPoints: object[], more: object = {}) => ({ name, ...more, gauge: { dataPoints } });
    const metricsOf = (...all: object[]) =>
      JSON.stringify({
        resourceMetrics: [
          {
            resource: { attributes: [{ key: 'service.name', value: { stringValue: 'pier' } }] },
            scopeMetrics: [{ metrics: all }]
          }
        ]
      });
    const { text: another } = await makeKey(app.db, {
      name: 'pier',
      expiresAt: null,
      mostSeries: 10,
      mostBytesADay: 1e9,
      createdAt: app.clock.now(),
      createdBy: 'test'
    });
    const json = { 'content-type': 'Application/JSON; charset=utf-8', authorization: `bearer ${another}` };
    const partial = await send(
      '/otlp/v1/metrics',
      metricsOf(
        gauge('pier.good', [
          { timeUnixNano: at, asDouble: '1.5' },
          { timeUnixNano: ahead, asDouble: 2 }
        ]),
        gauge('', [{ timeUnixNano: at, asDouble: 1 }]),
        gauge('pier.bad\0', [{ timeUnixNano: at, asDouble: 1 }]),
        gauge('pier.same', [
          { timeUnixNano: at, asInt: 1 },
          { timeUnixNano: at, asInt: 2 }
        ])
      ),
      json
    );
    expect(partial.status).to.equal(200);
    const { partialSuccess } = (await partial.json()) as { partialSuccess: Record<string, string> };
    expect(Number(partialSuccess['rejectedDataPoints'])).to.equal(4);
    expect(partialSuccess['errorMessage']).to.be.a('string').and.not.equal('');
    expect(await lastValues('pier.good')).to.deep.equal([1.5]);

    const wrongType = await send('/otlp/v1/metrics', 'x', { 'content-type': 'text/html' });
    expect(wrongType.status).to.equal(415);
    const garbage = await send('/otlp/v1/metrics', Buffer.from([0xff, 0xff, 0xff]), {
      'content-type': 'application/x-protobuf'
    });
    expect([garbage.status, garbage.headers.get('content-type')]).to.deep.equal([400, 'application/x-protobuf']);
  });

  it('refuses text that cannot be stored and instants that cannot be reached, with their place', async () => {
    const ask = async (changed: object) => {
      const answer = await page.request.post(`${app.origin}/api/v1/query`, {
        data: {
          signal: plainSignal({ metric: 'pier.good', statistic: 'last' }),
          from: '2026-05-04T00:00:00Z',
          to: '2026-05-04T01:00:00Z',
          ...changed
        }
      });
      return { status: answer.status(), text: await answer.text() };
    };
    const unstorable = await ask({ signal: plainSignal({ metric: 'a\0', statistic: 'last' }) });
    expect(unstorable.status).to.equal(400);
    expect(unstorable.text).to.contain('signal.rows.0.metric').and.contain('cannot be stored');
    for (const span of [{ from: '1960-01-01T00:00:00Z' }, { to: '9999-12-31T23:59:59Z' }]) {
      const { status, text } = await ask(span);
      expect(status, JSON.stringify(span)).to.equal(400);
      expect(text).to.contain('give a time from 1970-01-01 to 9998-12-31');
    }
  });

  it('without a good key nothing is taken, and a revoked one is none', async () => {
    expect((await fetch(`${app.origin}/otlp/v1/metrics`, { method: 'POST', body: '{}' })).status).to.equal(401);
    expect((await send('/api/v1/receive/ndjson', 'x', { authorization: `Bearer ${key}x` })).status).to.equal(401);
    await page.goto(`${app.origin}/receive`);
    await page.getByRole('button', { name: 'Revoke…' }).click();
    await page.getByRole('button', { name: 'Revoke', exact: true }).click();
    await until('revoked', async () => (await send('/api/v1/receive/ndjson', 'x')).status === 401);
  });

  it('a key does no more than whoever makes it may', async () => {
    await page.goto(`${app.origin}/receive`);
    const may = page.getByRole('group', { name: 'What it may do' });
    await may.getByLabel('change what editors change').check();
    await counts(may.getByLabel('administer'), 0);
    await page.getByLabel('Name of the key and its account').fill('board-robot');
    await page.getByRole('button', { name: 'Make key' }).click();
    const authorization = `Bearer ${await page.getByTestId('made-key').innerText()}`;
    const post = (path: string, body: object) =>
      fetch(`${app.origin}/api/v1${path}`, {
        ...{ method: 'POST', body: JSON.stringify(body) },
        headers: { authorization, 'content-type': 'application/json' }
      });
    expect((await post('/folders', { name: 'By a robot' })).status).to.equal(201);
    expect((await post('/backups', {})).status).to.equal(403);
    const forged = await page.request.post(`${app.origin}/receive?/make`, {
      form: { name: 'more', days: '1', mostSeries: '1', mostMegabytes: '1', scopes: 'administer' },
      headers: { origin: app.origin }
    });
    expect(await forged.text()).to.include('A key does nothing that whoever makes it may not do.');
  });

  it('operations are found by a word, and each says what it takes and answers', async () => {
    await page.getByRole('link', { name: 'API', exact: true }).click();
    await page.getByRole('heading', { level: 1, name: /^\d+ operations$/ }).waitFor();
    await page.getByLabel('Text').fill('hand-over');
    await page.getByLabel('Text').press('Enter');
    await page.getByRole('heading', { level: 1, name: /^1 operation of \d+$/ }).waitFor();
    await page.getByRole('button', { name: /POST .*hand-over/ }).click();
    const shown = page.getByRole('region', { name: 'This operation' });
    await shown.getByText('keys that may change what editors change').waitFor();
    await shown.getByText('call postIncidentsIdHandOver id=… --body FILE').waitFor();
    expect(await shown.locator('pre').innerText()).to.include('"personId": 2');
    await page.reload();
    await shown.getByRole('table', { name: 'What is sent' }).getByText('personId').waitFor();
    await page.getByLabel('Text').fill('no such operation');
    await page.getByLabel('Text').press('Enter');
    await page.getByText('No operation has this').waitFor();
    await page.getByRole('link', { name: 'Show all', exact: true }).first().click();
    await page.getByRole('heading', { level: 1, name: /^\d+ operations$/ }).waitFor();
  });
});
