import { once } from 'node:events';
import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { z } from 'zod';
import { instantFromText } from '../../../core/time';
import { exchange, exchangeJson } from './exchange';
import { plainGuard } from './guard';
import { outboundTo } from './outbound';
import { ProviderError, type ProviderAccess } from './provider';

describe('one call to a provider', () => {
  const clock = { now: () => instantFromText('2026-05-04T14:00:00Z') };
  let server: Server;
  let answer: RequestListener = () => undefined;
  let access: ProviderAccess;

  before(async () => {
    server = createServer((request, response) => answer(request, response)).listen(0, '127.0.0.1');
    await once(server, 'listening');
    access = {
      endpoint: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`,
      keyId: 'reader',
      secret: 's3cret-word',
      guard: plainGuard(),
      fetch: outboundTo(['127.0.0.1'])
    };
  });
  after(() => {
    server.closeAllConnections();
    server.close();
  });

  const call = () => exchange(clock, access, '/metrics', () => ({ method: 'GET' }));
  async function problem(listener: RequestListener): Promise<ProviderError> {
    answer = listener;
    try {
      await call();
    } catch (error) {
      if (error instanceof ProviderError) return error;
      throw error;
    }
    throw new Error('it passed');
  }
  const status =
    (code: number, body: object = {}, headers: Record<string, string> = {}): RequestListener =>
    (_request, response) =>
      response.writeHead(code, { 'content-type': 'application/problem+json', ...headers }).end(JSON.stringify(body));

  it('gives the text, and measures how far the clocks are apart', async () => {
    answer = (_request, response) => {
      response.sendDate = false;
      response.writeHead(200, { date: 'Mon, 04 May 2026 14:03:00 GMT' }).end('there');
    };
    expect(await call()).to.equal('there');
    expect(access.guard.meter.clockAheadMs).to.equal(180_500);
  });

  it('tells apart what went wrong, each with its remedy', async () => {
    const cases: [RequestListener, string, RegExp, RegExp][] = [
      [status(401, { detail: 'Unknown key.' }), 'signature', /refused\. Unknown key\./, /secret of reader/],
      [
        status(403, { right: 'metrics.read' }),
        'permission',
        /lacks a right: metrics\.read/,
        /grant metrics\.read to reader/
      ],
      [status(403), 'permission', /unnamed/, /grant the right/],
      [status(404), 'refused', /\(404\)/, /address/],
      [status(500, { detail: 'Broken.' }), 'unavailable', /answered 500\. Broken\./, /tries again/],
      [
        status(400, { type: 'urn:problem:clock', now: '2026-05-04T14:20:00Z' }),
        'clock',
        /differ by 20 min.*2026-05-04T14:20:00Z/,
        /clock/
      ],
      [status(302, {}, { location: 'http://127.0.0.1:1/' }), 'unreachable', /could not be reached/, /address/],
      [(request) => request.socket.destroy(), 'unreachable', /cut|hang up|socket/, /address/]
    ];
    for (const [listener, fault, says, remedy] of cases) {
      const error = await problem(listener);
      expect(error.code, error.message).to.equal(fault);
      expect(error.message).to.match(says);
      expect(error.remedy).to.match(remedy);
      expect(error.message + error.remedy).not.to.contain('s3cret-word');
    }
  });

  it('takes only a sensible time to wait from one who asks to slow down', async () => {
    for (const [told, taken] of [
      ['7', 7000],
      ['0.2', 1000],
      ['never', null],
      ['-5', null],
      ['99999999', null]
    ] as const)
      expect((await problem(status(429, {}, { 'retry-after': told }))).retryAfter, told).to.equal(taken);
  });

  it('says where an answer is not what it should be', async () => {
    const schema = z.object({ series: z.array(z.object({ id: z.string() })) });
    const read = () => exchangeJson(clock, access, '/metrics?x=1', () => ({}), schema);
    for (const [body, says] of [
      ['{"series":[{"id":"a"}]}', null],
      ['{"series":[{"id":7}]}', 'to /metrics cannot be read (at series.0.id'],
      ['{"series":[', 'it is no JSON, or was cut off'],
      ['<html>', 'it is no JSON, or was cut off']
    ] as const) {
      answer = (_request, response) => response.end(body);
      const said = await read().then(
        () => null,
        (error: unknown) => (error as Error).message
      );
      if (says === null) expect(said).to.equal(null);
      else expect(said).to.contain(says);
    }
  });

  it('refuses an answer without end before it fills the memory', async () => {
    const error = await problem((_request, response) => {
      const part = Buffer.alloc(1024 * 1024, 'x');
      const more = () => {
        while (!response.destroyed && response.write(part));
      };
      response.on('drain', more);
      more();
    });
    expect([error.code, error.message]).to.deep.equal(['malformed', 'An answer of more than 64 MiB was refused.']);
  });
});
