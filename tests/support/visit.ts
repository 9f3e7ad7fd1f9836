import { expect } from 'chai';
import type { Browser, Locator, Page } from 'playwright-core';
import { startApp, type AppOptions, type RunningApp } from './app';
import { openBrowser } from './chromium';
import { signedIn } from './pages';

/** A board as the API gives it. */
export interface BoardBody {
  readonly id: number;
  readonly version: number;
  readonly title: string;
  readonly range?: string;
  readonly panels: readonly { id: string; title: string; picture: string; place: object; section?: string }[];
}

/** Somebody at the application, Nerea unless it is said, in a browser of her own, and what tests of screens say again and again. */
export class Visit {
  app!: RunningApp;
  browser!: Browser;
  page!: Page;
  /** What the browser complained of. */
  complaints!: string[];

  readonly region = (name: string, of: Page = this.page): Locator => of.getByRole('region', { name, exact: true });
  readonly button = (name: string | RegExp, of: Page = this.page): Locator =>
    of.getByRole('button', { name, exact: typeof name === 'string' });
  readonly margin = (name: string): Locator => this.page.getByRole('complementary', { name });
  /** A panel while its board is arranged. */
  readonly group = (name: string, of: Page = this.page): Locator =>
    of.getByRole('group', { name: new RegExp(`^${name}:`) });
  /** Where such a panel lies, in words. */
  readonly placeOf = async (name: string): Promise<string | undefined> =>
    (await this.group(name).getAttribute('aria-label'))?.split('.')[0];
  /** That all changes of a board are kept. */
  readonly kept = (of: Page = this.page): Locator => of.getByRole('status').filter({ hasText: /^Saved$/ });

  /** A board made by the API, as another program would. */
  readonly made = async (title: string, panels: object[], more: object = {}): Promise<BoardBody> => {
    const data = { title, pickers: [], sections: [], panels, ...more };
    const answer = await this.page.request.post(`${this.app.origin}/api/v1/boards`, { data });
    expect(answer.status(), await answer.text()).to.equal(201);
    return (await answer.json()) as BoardBody;
  };
  readonly read = async (id: number): Promise<BoardBody> =>
    (await (await this.page.request.get(`${this.app.origin}/api/v1/boards/${id}`)).json()) as BoardBody;
}

/** A visit for the tests of one file: the application with the demo's accounts, some minutes after they were connected. */
export function withVisit({
  minutes = 3,
  who = 'nerea',
  app = {}
}: { minutes?: number; who?: string; app?: AppOptions } = {}): Visit {
  const visit = new Visit();
  before(async function () {
    this.timeout(300_000);
    visit.app = await startApp({ accounts: true, ...app });
    visit.browser = await openBrowser();
    ({ page: visit.page, complaints: visit.complaints } = await signedIn(visit.browser, visit.app, who));
    await visit.page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
    await visit.app.live(minutes);
  });
  afterEach(async function () {
    if (this.currentTest?.state === 'failed')
      await visit.page.screenshot({ path: `test-results/${this.currentTest.title.slice(0, 40)}.png` });
  });
  after(async function () {
    this.timeout(90_000);
    await visit.browser.close();
    await visit.app.stop();
  });
  return visit;
}

/** A signal of one metric. */
export const signalOf = (metric: string, statistic = 'avg', where: readonly object[] = []) => ({
  version: 2,
  rows: [{ name: 'a', metric, where, statistic }],
  step: 'PT1M'
});

/** A panel of lines, half a board wide. */
export const linesPanel = (id: string, x: number, y: number, metric = 'machine.processor.use') => ({
  id,
  title: `Panel ${id}`,
  picture: 'lines',
  signal: signalOf(metric),
  place: { x, y, w: 6, h: 4 }
});
