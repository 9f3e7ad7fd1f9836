import { once } from 'node:events';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';

const machines = 2000;
const metrics = 5;
const minute = 60_000;

export const seriesCount = machines * metrics;

/** A provider with Levante's interface and ten thousand series, which does not look at signatures. */
export async function largeProvider(): Promise<{ url: string; close(): void }> {
  const server = createServer((request, response) => {
    const reply = (body: unknown) =>
      response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    if (request.url?.endsWith('/resources'))
      return reply({
        account: 'large',
        resources: Array.from({ length: machines }, (_, i) => ({
          id: `m-${i}`,
          name: `m-${i}`,
          type: 'machine',
          region: 'r',
          tags: {}
        }))
      });
    if (request.url?.endsWith('/metrics'))
      return reply({
        metrics: Array.from({ length: metrics }, (_, i) => ({
          name: `machine.metric.${i}`,
          title: `Metric ${i}`,
          kind: 'gauge',
          unit: '1',
          shape: 'single',
          samplingSeconds: 60,
          delaySeconds: 60,
          resourceType: 'machine'
        }))
      });
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      const { series, from, to } = JSON.parse(Buffer.concat(parts).toString('utf8')) as {
        series: unknown[];
        from: string;
        to: string;
      };
      const [first, last] = [Math.ceil(Date.parse(from) / minute), Math.ceil(Date.parse(to) / minute)];
      reply({
        series: series.map((_, index) => ({
          index,
          points: Array.from({ length: last - first }, (_unused, i) => {
            const value = ((first + i) * 31 + index) % 1000;
            return [(first + i) * 60, value, 1, value, value];
          })
        })),
        next: null
      });
    });
    return undefined;
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, close: () => server.close() };
}
