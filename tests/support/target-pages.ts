import { once } from 'node:events';
import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { targetsSchema, type Targets } from '../../src/lib/core/targets';
import { connectPages } from '../../src/lib/server/intake/targets/manage-pages';
import { targetStates, type TargetState } from '../../src/lib/server/intake/targets/target-states';
import type { House } from './bussola';
import { until } from './until';

/** What a page was requested with. */
export interface PageRequest {
  readonly url: string;
  readonly authorization: string | undefined;
  readonly header: string | undefined;
}

/** A server of OpenMetrics pages, and accounts that read them. */
export class Pages {
  url = '';
  requests: PageRequest[] = [];
  answer: RequestListener;
  #value = 0;
  #accounts = 0;
  #server: Server | null = null;

  constructor(readonly house: House) {
    this.answer = this.usual;
  }

  /** A page with a counter that goes on, and a gauge. */
  readonly usual: RequestListener = (_request, response) =>
    response
      .writeHead(200, { 'content-type': 'application/openmetrics-text' })
      .end(
        `# TYPE requests counter\nrequests_total{path="/quote"} ${++this.#value}\n# TYPE depth gauge\ndepth{secret="x"} 7\n# EOF\n`
      );

  async listen(): Promise<void> {
    this.#server = createServer((request, response) => {
      const { authorization } = request.headers;
      const header = request.headers['x-harbour-key'] as string | undefined;
      this.requests.push({ url: request.url ?? '', authorization, header });
      this.answer(request, response);
    }).listen(0, '127.0.0.1');
    await once(this.#server, 'listening');
    this.url = `http://127.0.0.1:${(this.#server.address() as AddressInfo).port}`;
  }

  readonly close = (): void => {
    this.#server?.closeAllConnections();
    this.#server?.close();
  };

  readonly listOf = (targets: readonly object[], more: object = {}): Targets =>
    targetsSchema.parse({ find: { by: 'list', targets }, ...more });

  /** Connects an account. @returns its id */
  readonly connect = (definition: Targets, secret = ''): Promise<number> =>
    connectPages(this.house.bussola, { name: `pages-${++this.#accounts}`, definition, secret }, 'test');

  /** Lets time pass until a page stands as wanted. */
  readonly read = (account: number, name: string, holds: (state: TargetState) => boolean): Promise<TargetState> => {
    let looks = 0;
    return until(`${name} as it should be`, async () => {
      if (looks++ % 10 === 0) this.house.clock.pass(0.25);
      const state = (await targetStates(this.house.bussola.db, account)).find((one) => one.name === name);
      return state !== undefined && holds(state) ? state : false;
    });
  };
}

/** Pages for the tests of one file. */
export function withPages(house: House): Pages {
  const pages = new Pages(house);
  before(() => pages.listen());
  after(() => pages.close());
  return pages;
}
