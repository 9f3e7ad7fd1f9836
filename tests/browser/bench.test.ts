import { expect } from 'chai';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('the bench, as a person composes on it', () => {
  const visit = withVisit();

  const catalogue = () => visit.page.getByRole('region', { name: 'Catalogue' });
  const sentence = () => visit.page.getByTestId('sentence').innerText();
  const preview = () => visit.page.getByRole('region', { name: 'Preview' });
  const look = () => visit.page.getByRole('region', { name: 'Look at this' });

  it('finds a metric in spite of a typing error, reads what it is, and draws it', async () => {
    await visit.page.getByRole('navigation', { name: 'Index' }).getByRole('link', { name: 'Bench' }).click();
    await visit.page.getByRole('heading', { name: 'The bench is empty.' }).waitFor();
    await catalogue().getByRole('searchbox').fill('respones clas');
    const found = catalogue().getByRole('button', { name: /^Responses by class/ });
    await found.click();
    await catalogue().getByText('change since the last, requests').waitFor();
    await catalogue()
      .getByText(/by class/)
      .last()
      .waitFor();
    await catalogue().getByRole('button', { name: 'Add as a row' }).click();
    await preview().locator('canvas').waitFor();
    expect(await sentence()).to.equal('Sum of responses by class of each balancer, every 1 minute, in requests');
    await preview()
      .getByText(/cells from .* samples in \d+ ms/)
      .waitFor();
  });

  it('narrows by values that exist, with counts, and combines', async () => {
    await visit.page.getByRole('button', { name: 'where …' }).click();
    await visit.page.getByRole('button', { name: 'Values of class' }).click();
    await visit.page.getByRole('checkbox', { name: /3xx/ }).check();
    await visit.page.keyboard.press('Escape');
    await visit.page.getByLabel('How a is combined').selectOption('sum');
    await visit.page.getByRole('button', { name: 'Values of labels to group by' }).click();
    await visit.page.getByRole('checkbox', { name: /^resource/ }).check();
    await visit.page.keyboard.press('Escape');
    await until('the sentence', async () => (await sentence()).includes('added up by resource'));
    expect(await sentence()).to.equal(
      'Sum of responses by class, added up by resource of all balancers where class is 2xx or 3xx, every 1 minute, in requests'
    );
    await until('two of four classes', async () => {
      const [, few, all] = /(\d+) of (\d+) series/.exec(await visit.page.getByTestId('matched-a').innerText()) ?? [];
      return Number(few) * 2 === Number(all);
    });
  });

  it('says which condition emptied a pick, and undoes it', async () => {
    await visit.page.getByRole('button', { name: 'and …' }).click();
    await visit.page.getByLabel('Label').nth(1).selectOption('resource');
    await visit.page.getByLabel('How resource is compared').selectOption('matches');
    await visit.page.getByLabel('Expression for resource').fill('(');
    await visit.page.getByRole('alert').getByText('The expression cannot be read').waitFor();
    await visit.page.getByLabel('Expression for resource').fill('^nothing$');
    await look()
      .getByText(/none is there whose resource matches \^nothing\$/)
      .waitFor();
    await visit.page.getByText('leaves none').waitFor();
    await visit.page.getByLabel('Expression for resource').fill('^booking-web-');
    await visit.page.getByLabel('How resource is compared').selectOption('matchesNot');
    expect(await visit.page.getByLabel('Expression for resource').inputValue()).to.equal('^booking-web-');
    await visit.page.getByText('leaves none').waitFor({ state: 'detached' });
    await preview().locator('canvas').waitFor(); // all others are left
    await visit.page.getByLabel('How resource is compared').selectOption('matches');
    await visit.page.getByLabel('Expression for resource').fill('^nothing$');
    await visit.page.getByText('leaves none').waitFor();
    await visit.page.getByRole('button', { name: 'Take the condition on resource away' }).click();
    await preview().locator('canvas').waitFor();
  });

  it('works a formula out with its unit, marks what cannot be read, and mends what can', async () => {
    await visit.page.getByRole('button', { name: '+ add a formula' }).click();
    const formula = visit.page.getByLabel('Formula of b');
    await formula.fill('a / (a + 1');
    await visit.page.getByRole('alert').getByText('The formula ends too early').waitFor();
    await formula.fill('a / (a + 1)');
    await visit.page.getByText('no unit').waitFor();
    await visit.page.getByRole('button', { name: /^Unit to show in/ }).click();
    await visit.page.getByRole('button', { name: /^% percent/ }).click();
    await until('percent', async () => (await sentence()).endsWith('in %'));
    await visit.page.getByLabel('Name of row 1').fill('served');
    await visit.page.getByLabel('Name of row 1').press('Enter');
    await until('the row’s new name', async () => (await formula.inputValue()) === 'served / (served + 1)');
    expect(await look().count()).to.be.at.most(1);
  });

  it('is kept under a name, sent by its address, and copied as CSV and as a call', async () => {
    await visit.page.getByRole('button', { name: 'Save as a signal' }).click();
    await visit.page.getByLabel('Name of the signal').fill('Share of good responses');
    await visit.page.getByRole('button', { name: 'Save', exact: true }).click();
    await visit.page.waitForURL(/bench\?kept=\d+/);
    await visit.page.getByRole('button', { name: 'Copy' }).click();
    await visit.page.getByRole('button', { name: 'as CSV' }).click();
    await visit.page.getByText('Copied as CSV.').waitFor();
    const csv = await visit.page.evaluate(() => navigator.clipboard.readText());
    expect(csv.split('\r\n')[0]).to.equal('time,row,unit,account,resource,value');
    await visit.page.getByRole('button', { name: 'as API call' }).click();
    await visit.page.getByText('Copied as API call.').waitFor();
    expect(await visit.page.evaluate(() => navigator.clipboard.readText())).to.include('/api/v1/query');
    await visit.page.goto(`${visit.app.origin}/signals`);
    await visit.page.getByRole('link', { name: 'Share of good responses' }).click();
    await until(
      'the same formula',
      async () => (await visit.page.getByLabel('Formula of b').inputValue()) === 'served / (served + 1)'
    );
  });

  it('is stored as a metric, which is found in the catalogue like any other', async () => {
    await visit.page.getByRole('button', { name: 'Store as a metric' }).click();
    await visit.page.getByLabel('Name of the metric').fill('Good share');
    await visit.page.getByRole('button', { name: 'Store', exact: true }).click();
    await visit.page.waitForURL(/derived/);
    await visit.app.live(3);
    await visit.page.getByText('computed until').waitFor();
    await visit.page.getByRole('button', { name: 'Switch off' }).click();
    await visit.page.getByText('switched off').waitFor();
    await visit.page.goto(`${visit.app.origin}/bench`);
    await catalogue().getByRole('searchbox').fill('good share');
    await catalogue()
      .getByRole('button', { name: /^Good share/ })
      .waitFor();
  });

  it('a running total drawn raw is caught, and its rate drawn instead', async () => {
    const rows = [{ name: 'a', metric: 'gateway.bytes.out', where: [], statistic: 'avg' }];
    const kinds = await visit.app.db.rows<{ name: string }>(
      `select name from metrics where kind = 'cumulative' order by name limit 1`
    );
    const signal = { version: 2, step: 'PT1M', rows: [{ ...rows[0], metric: kinds[0]?.name }] };
    await visit.page.goto(`${visit.app.origin}/bench?signal=${encodeURIComponent(JSON.stringify(signal))}`);
    await look().getByText('is a running total: drawn raw it only climbs.').waitFor();
    await look().getByRole('button', { name: 'Draw its rate' }).click();
    await until('the rate', async () => (await sentence()).startsWith('Rate of'));
    expect(await visit.page.getByLabel('Statistic of a').inputValue()).to.equal('rate');
  });

  it('a group counts while it is typed, and its page draws what is in it', async () => {
    await visit.page.goto(`${visit.app.origin}/groups/new`);
    await visit.page.getByLabel('Name of the group').fill('booking');
    await visit.page.getByLabel('Label').selectOption('resource');
    await visit.page.getByLabel('How resource is compared').selectOption('matches');
    await visit.page.getByLabel('Expression for resource').fill('^booking-web-');
    await visit.page
      .getByTestId('gathered')
      .getByText(/^[1-9]\d* resources are in it now$/)
      .waitFor();
    await visit.page.getByRole('button', { name: 'Make the group' }).click();
    await visit.page.waitForURL(/groups\/\d+$/);
    await visit.page.getByRole('region', { name: 'Processor use' }).locator('canvas').waitFor();
  });

  const shared = {
    version: 2,
    step: 'PT1M',
    rows: [
      {
        name: 'good',
        metric: 'balancer.responses',
        where: [{ label: 'class', isNot: ['5xx'] }],
        statistic: 'sum',
        combine: { statistic: 'sum', by: ['resource'] }
      },
      {
        name: 'all',
        metric: 'balancer.responses',
        where: [],
        statistic: 'sum',
        combine: { statistic: 'sum', by: ['resource'] }
      },
      { name: 'availability', formula: 'good / all * 100' }
    ]
  };
  const open = async (signal: object) => {
    await visit.page.goto(`${visit.app.origin}/bench?signal=${encodeURIComponent(JSON.stringify(signal))}`);
    await preview().locator('canvas').waitFor();
  };

  it('works formulas out of what it has, without the server, and asks again for what it has not', async () => {
    const picks = visit.page.waitForResponse((response) =>
      (response.request().postData() ?? '').includes('"show":["good","all"]')
    );
    await open(shared);
    await (await picks).finished();
    const formula = visit.page.getByLabel('Formula of availability');
    const asked: string[] = [];
    visit.page.on(
      'request',
      (request) => request.url().includes('/api/v1/query') && asked.push(request.postData() ?? '')
    );
    await until('computed in the browser', async () => {
      await formula.fill('(all - good) / all * 100');
      return (await visit.page.getByTestId('effort').innerText()).includes('computed in the browser');
    });
    const before = asked.length;
    await formula.fill('all - good');
    await until('the new unit', async () => (await sentence()).includes('all - good'));
    await visit.page.getByTestId('effort').getByText('computed in the browser').waitFor();
    expect(asked.slice(before).filter((text) => text.includes('all - good'))).to.deep.equal([]);
    await formula.fill('good - previous(good, 5 min)');
    await visit.page
      .getByTestId('effort')
      .getByText(/samples in \d+ ms/)
      .waitFor();
    expect(asked.some((text) => text.includes('previous(good'))).to.equal(true);
  });

  it('draws cells of a day of the reader’s calendar', async () => {
    await open({ version: 2, step: 'P1D', rows: [shared.rows[1]] });
    expect(await sentence()).to.include('every 1 day');
    const response = visit.page.waitForResponse((one) => (one.request().postData() ?? '').includes('P7D'));
    await visit.page.getByLabel('Length of a cell').selectOption('P7D');
    const { calendar } = (await (await response).json()) as { calendar: { zone: string; edges: number[] } };
    const { zone } =
      (await visit.app.db.rows<{ zone: string }>(`select zone from people where name = 'nerea'`))[0] ?? {};
    expect(calendar.zone).to.equal(zone);
    const first = new Intl.DateTimeFormat('en', {
      timeZone: zone,
      weekday: 'short',
      hour: '2-digit',
      hourCycle: 'h23'
    });
    expect(calendar.edges.map((edge) => first.format(edge))).to.deep.equal(calendar.edges.map(() => 'Mon, 00'));
  });

  it('is sent to a board, a new one and one that is there, and changed for a panel of it', async () => {
    await open(shared);
    await visit.page.getByRole('button', { name: 'Send to a board' }).click();
    await visit.page.getByLabel('Title of the new board').fill('Tickets, at a glance');
    await visit.page.getByRole('button', { name: 'Send it there' }).click();
    await visit.page.waitForURL(/boards\/\d+/);
    await visit.page.getByRole('region', { name: 'Availability' }).locator('canvas').waitFor();
    await visit.page.getByRole('button', { name: 'More of Availability' }).click();
    await visit.page.getByRole('link', { name: 'Open on the bench' }).click();
    await preview().locator('canvas').waitFor();
    await visit.page.getByRole('button', { name: 'Send to a board' }).click();
    await visit.page.getByLabel('Title of the panel').fill('Second look');
    await visit.page.getByLabel('Board', { exact: true }).selectOption('new');
    await visit.page.getByLabel('Title of the new board').fill('Tickets, at a glance');
    await visit.page.getByRole('button', { name: 'Send it there' }).click();
    await visit.page
      .getByRole('alert')
      .getByText('There is already a board titled Tickets, at a glance.')
      .first()
      .waitFor();
    expect(await visit.page.getByLabel('Title of the panel').inputValue(), 'what was typed stays').to.equal(
      'Second look'
    );
    await visit.page.getByLabel('Board', { exact: true }).selectOption('Tickets, at a glance');
    await visit.page.getByRole('button', { name: 'Send it there' }).click();
    await visit.page.getByRole('region', { name: 'Second look' }).locator('canvas').waitFor();
    await visit.page.goto(`${visit.app.origin}/boards`);
    await visit.page.getByText('Availability, Second look').waitFor();
    await visit.page.getByRole('link', { name: 'Tickets, at a glance' }).first().click();
    await visit.page.getByRole('button', { name: /^Edit/ }).click();
    await visit.page.getByRole('group', { name: /^Second look/ }).press('Enter');
    await visit.page.getByRole('link', { name: 'Change it on the bench' }).click();
    await visit.page.getByLabel('Draw good').check();
    await visit.page.getByRole('button', { name: 'Use it for “Second look”' }).click();
    await visit.page.getByRole('group', { name: /^Second look/ }).waitFor();
  });

  it('is watched by an alarm, which raises on a share that no provider reports', async () => {
    await open(shared);
    await visit.page.getByRole('link', { name: 'Alarm on this' }).click();
    await visit.page.getByLabel('Name of the alarm').waitFor();
    expect(await visit.page.getByLabel('Name of the alarm').inputValue()).to.equal('Low availability');
    await visit.page.getByText('availability, which is good / all * 100').waitFor();
    await visit.page.getByRole('spinbutton', { name: 'Threshold' }).fill('100.5');
    await visit.page.getByLabel('Direction').selectOption('below');
    await visit.page.getByLabel('Windows needed').fill('1');
    await visit.page.getByRole('button', { name: 'Switch on' }).click();
    await visit.page.waitForURL(/alarms\/\d+/);
    await visit.app.live(3);
    await visit.page.locator('[data-state="raised"]').first().waitFor();
    await visit.page.getByRole('link', { name: 'Incidents' }).click();
    await visit.page.getByRole('link', { name: 'Low availability' }).first().click();
    await visit.page.getByRole('heading', { name: /is raised: low availability/ }).waitFor();
    await visit.page.getByRole('region', { name: 'Low availability' }).locator('canvas').waitFor();
    await visit.page.getByRole('region', { name: 'Why' }).getByText('below 100.5 %').waitFor();
  });

  it('a viewer composes but keeps nothing', async () => {
    const viewer = await signedIn(visit.browser, visit.app, 'oda');
    await viewer.page.goto(`${visit.app.origin}/bench`);
    await viewer.page.getByRole('searchbox').waitFor();
    await counts(viewer.page.getByRole('button', { name: 'Save as a signal' }), 0);
    const refused = await viewer.page.request.post(`${visit.app.origin}/api/v1/signals`, {
      data: { name: 'x', signal: {} }
    });
    expect(refused.status()).to.equal(403);
    const boards = (await (await viewer.page.request.get(`${visit.app.origin}/api/v1/boards`)).json()) as {
      boards: { id: number }[];
    };
    const { id } = boards.boards[0]!;
    const panel = { title: 'x', signal: shared };
    const call = viewer.page.request;
    const { title, panels, version } = (await (await call.get(`${visit.app.origin}/api/v1/boards/${id}`)).json()) as {
      version: number;
      title: string;
      panels: object[];
    };
    const answers = [
      await call.put(`${visit.app.origin}/api/v1/boards/${id}`, { data: { title, panels: [], version } }),
      await call.post(`${visit.app.origin}/api/v1/boards/${id}/panels`, { data: panel }),
      await call.delete(`${visit.app.origin}/api/v1/boards/${id}`)
    ];
    expect(answers.map((answer) => answer.status())).to.deep.equal([403, 403, 403]);
    const late = await visit.page.request.put(`${visit.app.origin}/api/v1/boards/${id}`, {
      data: { title, panels, version: 1 }
    });
    expect([late.status(), ((await late.json()) as { message: string }).message]).to.deep.equal([
      409,
      'Nerea Olmo changed this board meanwhile.'
    ]);
    const wrong = { title, panels: [{ ...panels[0], place: { x: 9, y: 0, w: 9, h: 4 } }], version };
    const unread = await visit.page.request.put(`${visit.app.origin}/api/v1/boards/${id}`, { data: wrong });
    const { problems } = (await unread.json()) as { problems: { path: string }[] };
    expect([unread.status(), problems.map(({ path }) => path)]).to.deep.equal([400, ['panels.0.place']]);
    await viewer.page.goto(`${visit.app.origin}/boards/${id}`);
    await viewer.page.getByRole('region', { name: 'Second look' }).locator('canvas').waitFor();
    await counts(viewer.page.getByRole('button', { name: /^Edit/ }), 0);
    await viewer.page.context().close();
  });

  it('what a signal may be is published as a JSON Schema', async () => {
    const response = await visit.page.request.get(`${visit.app.origin}/api/v1/schemas/signal`);
    const schema = (await response.json()) as { properties: Record<string, unknown>; required: string[] };
    expect(Object.keys(schema.properties)).to.include.members(['version', 'rows', 'step', 'limit', 'unit']);
    expect(schema.required).to.include.members(['version', 'rows', 'step']);
  });

  it('leaves nothing to complain of in the browser', () => {
    expect(visit.complaints.filter((text) => !/4(09|22)/.test(text))).to.deep.equal([]);
  });
});
