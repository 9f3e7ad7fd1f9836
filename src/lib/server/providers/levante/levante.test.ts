import { expect } from 'chai';
import { createServer, type Server } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { instant, range } from '../../../core/time';
import { ProviderError, type FetchedPage, type ProviderAccess } from '../port/provider';
import { plainGuard } from '../port/guard';
import { outboundTo } from '../port/outbound';
import { levanteProvider } from './levante';

const now = instant(1_777_903_200_000);
const provider = levanteProvider({ now: () => now });
const span = range(instant(now - 600_000), now);
const wanted = ['m-1', 'm-2'].map((providerId) => ({ providerId, metrics: ['machine.memory.use'] }));

describe('what Levante may answer', () => {
  let server: Server;
  let access: ProviderAccess;
  /** What the next requests are answered with, in turn; the last is repeated. */
  let answers: { status?: number; body: string }[] = [];

  before(async () => {
    server = createServer((_request, response) => {
      const { status = 200, body } = answers.length > 1 ? answers.shift()! : answers[0]!;
      response.writeHead(status, { 'content-type': 'application/json' }).end(body);
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    access = {
      endpoint: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`,
      keyId: 'k',
      secret: 's',
      guard: plainGuard(),
      fetch: outboundTo(['127.0.0.1'])
    };
  });
  after(() => {
    server.closeAllConnections();
    server.close();
  });

  async function fetched(...pages: unknown[]): Promise<FetchedPage[]> {
    answers = pages.map((page) => ({ body: typeof page === 'string' ? page : JSON.stringify(page) }));
    const got: FetchedPage[] = [];
    for await (const page of provider.fetch(access, wanted, span)) got.push(page);
    return got;
  }
  const fault = async (work: () => Promise<unknown>) => {
    const error = await work().catch((failure: unknown) => failure);
    if (!(error instanceof ProviderError)) throw new Error(`no provider error: ${String(error)}`);
    expect(error.remedy).to.have.length.above(10);
    return error;
  };
  const series = (...points: unknown[]) => ({ series: [{ index: 0, points }], next: null });

  it('points in any order come sorted, of equal minutes the last', async () => {
    const [page] = await fetched(series([120, 5, 1, 5, 5], [60, 1, 1, 1, 1], [120, 6, 1, 6, 6]));
    expect([...page!.series[0]!.points.at]).to.deep.equal([60_000, 120_000]);
    expect([...page!.series[0]!.points.sum]).to.deep.equal([1, 6]);
    expect(page!.series[0]!.resource).to.equal('m-1');
  });

  it('values that are no numbers cost themselves and not their page', async () => {
    const bad = [
      [60, null, 1, 1, 1],
      [60, '1', 1, 1, 1],
      [60, 1, 0, 1, 1],
      [60, 1, 1, 2, 1],
      [60.5, 1, 1, 1, 1],
      [-60, 1, 1, 1, 1],
      [1e12, 1, 1, 1, 1],
      [60, 1, 1, 1],
      'x',
      null
    ];
    const [page] = await fetched(series(...bad, [180, 9, 1, 9, 9]));
    expect([page!.refused, page!.series[0]!.points.at.length]).to.deep.equal([bad.length, 1]);
    expect(page!.refusedExample).to.equal('machine.memory.use of m-1: [60,null,1,1,1]');
    const [infinite] = await fetched('{"series":[{"index":0,"points":[[60,1e999,1,1,1]]}],"next":null}');
    expect([infinite!.refused, infinite!.series.length]).to.deep.equal([1, 0]);
  });

  it('pages are followed by their token, and not in a circle', async () => {
    const pages = await fetched(
      { ...series([60, 1, 1, 1, 1]), next: 'a' },
      { ...series([120, 1, 1, 1, 1]), next: 'b' },
      series([180, 1, 1, 1, 1])
    );
    expect(pages.map(({ series: [one] }) => one!.points.at[0])).to.deep.equal([60_000, 120_000, 180_000]);
    expect((await fault(() => fetched({ ...series(), next: 'a' }, { ...series(), next: 'a' }))).message).to.contain(
      'lead back to themselves'
    );
  });

  it('what cannot be read is malformed, and says where', async () => {
    const cut = JSON.stringify(series([60, 1, 1, 1, 1])).slice(0, 20);
    expect((await fault(() => fetched(cut))).message).to.contain('it is no JSON, or was cut off');
    const odd = await fault(() => fetched({ series: [{ index: 'x', points: [] }], next: null }));
    expect([odd.code, odd.message]).to.satisfy(
      ([kind, text]: [string, string]) => kind === 'malformed' && text.includes('at series.0.index')
    );
    expect((await fault(() => fetched({ series: [{ index: 7, points: [] }], next: null }))).message).to.contain(
      'number 7'
    );
  });

  it('each refusal has its own fault and remedy', async () => {
    const problems: Readonly<Record<string, { status: number; body: string }>> = {
      signature: { status: 401, body: '{"type":"urn:levante:problem:signature","detail":"No."}' },
      clock: { status: 401, body: '{"type":"urn:levante:problem:clock","now":"2026-05-04T15:00:00Z"}' },
      permission: { status: 403, body: '{"right":"metrics.read"}' },
      throttled: { status: 429, body: '' },
      unavailable: { status: 502, body: '<html>' },
      refused: { status: 404, body: 'nothing' }
    };
    for (const [kind, answer] of Object.entries(problems)) {
      answers = [answer];
      expect((await fault(() => provider.discover(access))).code, kind).to.equal(kind);
    }
  });
});
