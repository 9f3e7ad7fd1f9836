// Serves pages of 40 series for the measurement of reading many pages, and their list.
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';

const targets = Number(process.argv[2]);
let round = 0;
const page = (number: number): string => {
  const lines = ['# TYPE requests counter'];
  for (let i = 0; i < 20; i++) lines.push(`requests_total{path="/part-${i}",code="200"} ${round * 17 + number + i}`);
  lines.push('# TYPE depth gauge');
  for (let i = 0; i < 20; i++) lines.push(`depth{queue="q-${i}"} ${(round * 7 + number * 3 + i) % 100}`);
  return `${lines.join('\n')}\n# EOF\n`;
};

const server = createServer((request, response) => {
  round++;
  const { port } = server.address() as AddressInfo;
  if (request.url === '/pages.json')
    return response.end(
      JSON.stringify({
        targets: Array.from({ length: targets }, (_, i) => ({
          url: `http://127.0.0.1:${port}/${i}/metrics`,
          name: `target-${i}`
        }))
      })
    );
  response.writeHead(200, { 'content-type': 'application/openmetrics-text; version=1.0.0' });
  response.end(page(Number(request.url?.split('/')[1])));
});
server.keepAliveTimeout = 60_000;
server.listen(0, '127.0.0.1', () => process.send?.((server.address() as AddressInfo).port));
