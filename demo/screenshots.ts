// Makes docs/screenshots from demo data at a fixed moment: the same pictures every time, but for how long answers took and the ports of the stand-ins.
import { mkdirSync, readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { plainSignal } from '../src/lib/core/signal';
import { allChannels, insertEmailChannel } from '../src/lib/server/notify/channels';
import { confirmChannel } from '../src/lib/server/notify/channel-confirmation';
import { allPeople } from '../src/lib/server/people/people';
import { insertCheck } from '../src/lib/server/reachability/checks';
import { insertRota } from '../src/lib/server/rotas/rotas';
import { allRoutes, insertRoute } from '../src/lib/server/routing/routes';
import { grecaleKey } from '../stand-ins/grecale/grecale';
import { machines } from '../stand-ins/levante/world';
import { startApp } from '../tests/support/app';
import { openBrowser } from '../tests/support/chromium';
import { signedIn } from '../tests/support/pages';
import { programOf } from '../tests/support/program';
import { until } from '../tests/support/until';
import { budgets as storedBudgets } from '../src/lib/server/cost/budgets';
import { saveRate } from '../src/lib/server/cost/cost-settings';
import { contacts, rotas, routes } from './corallo';
import { allAlarms } from '../src/lib/server/alarms/alarms';
import { objectives } from '../src/lib/server/objective/objectives';
import { actRight } from '../src/lib/server/people/act-access';
import { insertResponse } from '../src/lib/server/responses/responses';
import { budgets } from './budgets';
import { checks } from './checks';
import { promises } from './objectives';
import { responses } from './responses';
import { rates } from './workspace';

const folder = 'docs/screenshots';
const minute = 60_000;
mkdirSync(folder, { recursive: true });
const app = await startApp({
  ...{ accounts: true, days: 1, at: '2026-05-04T01:48:00Z' },
  env: { BUSSOLA_LINES_MS: '500', BUSSOLA_BILLS_MS: '1000' }
});
const browser = await openBrowser();

try {
  await until(
    'the history',
    async () => {
      const rows = await app.db.rows<{ left: number }>('select count(*)::integer as left from gaps');
      const collections = await app.db.rows('select service from collections where newest_at is not null');
      const feeds = await app.db.rows<{ missing: number }>(
        'select history_to - (select max(history_from) from accounts) as missing from log_feeds'
      );
      const isRead = feeds.length > 10 && feeds.every(({ missing }) => missing <= 0);
      const bills = await app.db.rows('select 1 from bill_reads where settled_until is not null');
      return isRead && bills.length >= 4 && collections.length > 12 && rows.every(({ left }) => left <= 1); // that of the service that may not be read
    },
    300_000
  );
  await watch();
  for (const check of checks(app.standIns.url, app.standIns.front.ports))
    await insertCheck(app.db, check, { at: app.clock.now(), by: 'Nerea Olmo' });
  await night();
  const { page } = await signedIn(browser, app, 'nerea');
  await shots(page, 'day');
  // Connectors are written by administrators.
  const { page: administrator } = await signedIn(browser, app, 'kaja');
  await connector(administrator);
  await page.context().addCookies([{ name: 'theme', value: 'night', url: app.origin }]);
  await shots(page, 'night');
} finally {
  await browser.close();
  await app.stop();
}

/** A connector with a try of it, and what was recorded. */
async function connector(page: Page): Promise<void> {
  const text = readFileSync('static/connectors/grecale.yaml', 'utf8');
  const kaja = await programOf(app, 'kaja');
  const { id } = (await kaja('POST', '/connectors', { text })).body as { id: number };
  await page.goto(`${app.origin}/connectors/${id}`);
  await page.getByLabel('What is requested').selectOption('events');
  await page.getByLabel('Address', { exact: true }).fill(`${app.standIns.url}/grecale`);
  await page.getByLabel('Key', { exact: true }).fill(grecaleKey.name);
  await page.getByLabel('Secret', { exact: true }).fill(grecaleKey.secret);
  await page.getByRole('button', { name: 'Try it' }).click();
  await page.getByText('45 things').waitFor();
  await page.getByLabel('Name of the recording').fill('usual events');
  await page.getByRole('button', { name: 'Record it' }).click();
  await page.getByRole('button', { name: 'Test on them' }).click();
  await page.getByText('all passed').waitFor();
  await page.screenshot({ path: `${folder}/connector-day.png` });
}

/** Who has the watch, and who is notified, as in the demo. */
async function watch(): Promise<void> {
  const { db } = app;
  const by = { at: app.clock.now(), by: 'Kaja Tamm' };
  const ids = Object.fromEntries((await allPeople(db)).map(({ id, name }) => [name, id])) as Parameters<
    typeof rotas
  >[0];
  for (const { person, channel } of contacts) {
    if (channel.kind !== 'email') continue;
    const personId = ids[person as keyof typeof ids];
    const made = await insertEmailChannel(db, {
      ...{ name: channel.name, address: channel.address, createdAt: by.at, createdBy: by.by, personId }
    });
    await confirmChannel(db, made.id, by.at);
  }
  for (const rate of rates(app.clock.now())) await saveRate(db, rate, by);
  for (const promise of promises(() => 1)) await objectives.insert(db, promise, by);
  const [alarm] = await allAlarms(db);
  await actRight.set(db, ids.nerea, 'all');
  for (const response of responses(
    () => alarm?.id ?? 0,
    () => 1
  ))
    await insertResponse(
      db,
      { ...response, heldMinutes: 240, limits: { ...response.limits, group: null } },
      { ...by, personId: ids.kaja }
    );
  const [first] = await allChannels(db);
  const made = new Map<string, number>();
  for (const rota of rotas(ids, '2026-03-23')) made.set(rota.name, (await insertRota(db, rota, by)).id);
  for (const { place, route } of routes(
    (name) => made.get(name) ?? 0,
    () => first?.id ?? 0
  ))
    if (place === 'list') await db.transaction((within) => insertRoute(within, route, place, by));
  const routeIds = new Map((await allRoutes(db)).map(({ id, route: { name } }) => [name, id]));
  for (const budget of budgets((name) => routeIds.get(name) ?? 0))
    await db.transaction((within) => storedBudgets.insert(within, budget, by));
}

/** What happened before 03:10: one machine was busy and is clear again, another has been raised for a while. */
async function night(): Promise<void> {
  stress('gate-api-1', 93, 8);
  await app.live(30);
  stress('booking-web-2', 96, 240);
  await app.live(52);
}

function stress(name: string, value: number, minutes: number): void {
  const machine = machines.find((one) => one.name === name);
  if (!machine) throw new Error(`screenshots: no machine ${name}`);
  const from = app.clock.now();
  app.standIns.levante.stress({
    resource: machine.id,
    metric: 'machine.processor.use',
    value,
    from,
    until: from + minutes * minute
  });
}

async function shots(page: Page, theme: 'day' | 'night'): Promise<void> {
  const incident = await app.db.rows<{ id: number }>(
    `select id from incidents where closed_at is null and alarm_name like 'Processor%'`
  );
  const signal = encodeURIComponent(
    JSON.stringify(
      plainSignal({
        metric: 'machine.processor.use',
        where: [{ label: 'account', is: ['corallo-prod'] }],
        statistic: 'avg'
      })
    )
  );
  const answers = (name: string, classes: string[]) => ({
    name,
    metric: 'balancer.responses',
    where: [{ label: 'class', is: classes }],
    statistic: 'sum',
    combine: { statistic: 'sum', by: ['resource'] }
  });
  const rows = [
    answers('served', ['2xx', '3xx']),
    answers('failed', ['5xx']),
    { name: 'share', formula: 'failed / (served + failed)' }
  ];
  const composed = encodeURIComponent(JSON.stringify({ version: 2, step: 'PT1M', rows, unit: '%' }));
  const harbour = await app.db.rows<{ id: number }>(`select id from resources where name = 'harbour-cluster'`);
  const views: Readonly<Record<string, string>> = {
    ...(theme === 'day'
      ? {
          board: '/services/machines/board',
          cluster: `/clusters/${harbour[0]?.id ?? 0}`,
          alarm: `/alarms/new?signal=${signal}&title=Processor%20use`,
          bench: `/bench?service=balancers&signal=${composed}`,
          accounts: '/accounts/3?service=machines',
          objectives: '/objectives',
          responses: '/responses',
          cost: '/cost?month=2026-04',
          summary: '/summary?kind=month&of=2026-05-04',
          checks: '/checks',
          events: '/events?range=P14D',
          logs: '/logs?q=severity+%3E%3D+warn&by=stream',
          routes: '/routes',
          incident: `/incidents/${incident[0]?.id ?? 0}`
        }
      : { watch: '/', rotas: '/rotas', api: '/operations?operation=postAlarms' })
  };
  for (const [name, path] of Object.entries(views)) await shot(page, path, `${name}-${theme}`);
  if (theme === 'day') {
    await page.setViewportSize({ width: 390, height: 844 });
    await shot(page, '/', 'watch-phone');
    await page.setViewportSize({ width: 1280, height: 800 });
  }
}

/** Opens a view, lets its charts come, and keeps the picture. */
async function shot(page: Page, path: string, name: string): Promise<void> {
  await page.goto(app.origin + path);
  await page.evaluate(() => document.fonts.ready);
  await page.getByTestId('age').waitFor();
  await page.waitForFunction(
    () =>
      !/Reading|replaying|Comparing with|counted until|searching|Looking at each|put together/.test(
        document.body.innerText
      )
  );
  if (/board|watch|incident|alarm-|bench/.test(name)) await page.locator('canvas').first().waitFor();
  await page.screenshot({ path: `${folder}/${name}.png` });
}
