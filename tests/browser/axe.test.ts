import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Browser, Page } from 'playwright-core';
import { startApp, type RunningApp } from '../support/app';
import { openBrowser } from '../support/chromium';
import { signedIn } from '../support/pages';

interface Finding {
  readonly id: string;
  readonly impact: string | null;
  readonly nodes: readonly { readonly target: readonly string[]; readonly html: string }[];
}

/** Rules that look at colours. */
const ofColours = ['color-contrast', 'link-in-text-block'];
const source = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

describe('every main screen, as axe judges it', () => {
  let app: RunningApp;
  let browser: Browser;
  let page: Page;

  before(async function () {
    this.timeout(300_000);
    app = await startApp({ accounts: true });
    browser = await openBrowser();
    ({ page } = await signedIn(browser, app, 'nerea'));
    await app.live(2);
    const panels = [
      {
        id: 'a',
        title: 'A',
        picture: 'snapshot',
        columns: [{ title: 'Use', signal: signal() }],
        place: { x: 0, y: 0, w: 6, h: 4 }
      },
      {
        id: 'b',
        title: 'B',
        picture: 'gauge',
        signal: signal(),
        scale: { from: 0, to: 100 },
        place: { x: 6, y: 0, w: 6, h: 4 }
      },
      { id: 'c', title: 'C', picture: 'heat', signal: signal(), place: { x: 0, y: 4, w: 6, h: 4 } },
      { id: 'd', title: 'D', picture: 'text', text: '# Read\n\n[this](/boards)', place: { x: 6, y: 4, w: 6, h: 4 } },
      { id: 'e', title: 'E', picture: 'ring', signal: signal(), place: { x: 0, y: 8, w: 6, h: 4 } },
      { id: 'f', title: 'F', picture: 'table', signal: signal(), place: { x: 6, y: 8, w: 6, h: 4 } }
    ];
    const pickers = [{ name: 'account', title: 'Account', label: 'account' }];
    const data = { title: 'Everything', pickers, sections: [], panels };
    const made = await page.request.post(`${app.origin}/api/v1/boards`, { data });
    expect(made.status(), await made.text()).to.equal(201);
  });
  after(async function () {
    this.timeout(90_000);
    await browser.close();
    await app.stop();
  });

  const signal = () => ({
    version: 2,
    rows: [{ name: 'a', metric: 'machine.processor.use', where: [], statistic: 'avg' }],
    step: 'PT1M'
  });

  /** What axe finds serious. @param rules those that are looked at; all unless said */
  async function faults(rules: readonly string[] | null): Promise<string[]> {
    const { violations } = await page.evaluate(
      async (only) =>
        (globalThis as never as { axe: { run: (options: object) => Promise<{ violations: Finding[] }> } }).axe.run({
          resultTypes: ['violations'],
          ...(only === null ? {} : { runOnly: { type: 'rule', values: only } })
        }),
      rules
    );
    return violations
      .filter(({ impact }) => impact === 'serious' || impact === 'critical')
      .flatMap(({ id, nodes }) =>
        nodes.slice(0, 4).map(({ target, html }) => `${id}: ${target.join(' ')} ${html.slice(0, 120)}`)
      );
  }

  const screens: readonly (readonly [path: string, ready: string])[] = [
    ['/', 'main'],
    ['/boards', 'main'],
    ['/boards/1', 'section.panel canvas'],
    ['/boards/1?edit', '.grid-stack-item canvas'],
    ['/boards/1/file', '.cm-content'],
    ['/boards/import', '.cm-content'],
    ['/services/databases/board', 'section.panel canvas'],
    ['/services/watch/board', 'section.panel'],
    ['/resources/1', 'section.panel canvas'],
    ['/wall?boards=1', 'section.panel canvas'],
    ['/bench', 'main'],
    ['/logs', 'main'],
    ['/events', 'main'],
    ['/event-rules/new', 'main'],
    ['/line-rules', 'main'],
    ['/clusters', 'main'],
    ['/checks', 'main'],
    ['/checks/new', 'main'],
    ['/signals', 'main'],
    ['/groups', 'main'],
    ['/alarms', 'main'],
    ['/alarms/1', 'main canvas'],
    ['/incidents', 'main'],
    ['/incidents/1', 'main'],
    ['/rotas', 'main'],
    ['/routes', 'main'],
    ['/outbox', 'main'],
    ['/people', 'main'],
    ['/teams', 'main'],
    ['/profile', 'main'],
    ['/channels', 'main'],
    ['/channels/words', 'main'],
    ['/routes/files', 'main'],
    ['/objectives/files', 'main'],
    ['/summary', 'main li'],
    ['/summary/plans/new', 'main form'],
    ['/tidy', 'main'],
    ['/coverage', 'main'],
    ['/processes', 'main table'],
    ['/intake', 'main'],
    ['/store', 'main'],
    ['/operations?operation=postAlarms', 'main aside table'],
    ['/accounts', 'main'],
    ['/accounts/1', 'main']
  ];

  /** Those that only administrators have. */
  const ofAdministrators: readonly (readonly [path: string, ready: string])[] = [
    ['/slow', 'main table'],
    ['/followers', 'main .panel'],
    ['/backups', 'main .panel'],
    ['/audit', 'main'],
    ['/connectors/new', 'main']
  ];

  /** What axe finds serious on screens, by their addresses. */
  async function faultsOf(
    looked: readonly (readonly [path: string, ready: string])[]
  ): Promise<Record<string, string[]>> {
    const found: Record<string, string[]> = {};
    for (const [path, ready] of looked) {
      await page.goto(app.origin + path);
      await page.locator(ready).first().waitFor();
      await page.evaluate(source); // past the policy that keeps scripts from elsewhere out
      const byDay = await faults(null);
      // At night the same elements have other colours.
      await page.evaluate(async () => {
        document.documentElement.classList.add('dark');
        await new Promise((drawn) => requestAnimationFrame(drawn));
        await Promise.allSettled(document.getAnimations().map(({ finished }) => finished)); // colours of buttons fade
      });
      const byNight = (await faults(ofColours)).map((told) => `by night, ${told}`);
      if (byDay.length + byNight.length > 0) found[path] = [...byDay, ...byNight];
    }
    return found;
  }

  it('has no serious fault by day and by night', async () => {
    expect(await faultsOf(screens)).to.deep.equal({});
  }).timeout(240_000);

  it('has none on what only administrators have', async () => {
    ({ page } = await signedIn(browser, app, 'kaja'));
    expect(await faultsOf(ofAdministrators)).to.deep.equal({});
  }).timeout(120_000);
});
