import { once } from 'node:events';
import { createServer, type IncomingHttpHeaders } from 'node:http';
import type { AddressInfo } from 'node:net';

/** A request that a receiver got. */
export interface Received {
  /** The path and query it was sent to. */
  readonly path: string;
  readonly headers: IncomingHttpHeaders;
  readonly body: string;
}

/** A program of somebody's that webhooks post to: it stores what it gets, and answers what a test says. */
export class Receiver {
  readonly received: Received[] = [];
  /** The status that is answered. */
  answer = 204;
  readonly #server = createServer((request, response) => {
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      this.received.push({ path: request.url ?? '', headers: request.headers, body: Buffer.concat(parts).toString() });
      response.writeHead(this.answer).end();
    });
  });

  /** @returns its address */
  async open(): Promise<string> {
    this.#server.listen(0, '127.0.0.1');
    await once(this.#server, 'listening');
    return `http://127.0.0.1:${(this.#server.address() as AddressInfo).port}/changes`;
  }

  async close(): Promise<void> {
    this.#server.closeAllConnections();
    this.#server.close();
    await once(this.#server, 'close');
  }
}
