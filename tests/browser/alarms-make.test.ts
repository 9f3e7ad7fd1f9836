import { expect } from 'chai';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('alarms, as people make them', () => {
  const visit = withVisit({ minutes: 8 });
  const button = (name: string | RegExp) => visit.page.getByRole('button', { name, exact: true });
  const field = (name: string) => visit.page.getByLabel(name, { exact: true });
  const open = (path: string) => visit.page.goto(`${visit.app.origin}${path}`);
  const figures = () => visit.page.getByTestId('rehearsal');
  const timesRaised = async () => Number(/^(\d+)\s+times? raised/.exec(await figures().innerText())?.[1] ?? NaN);

  async function switchedOn(name: string): Promise<{ rule: { levels: object[] }; combines?: object; signal?: object }> {
    await field('Name of the alarm').fill(name);
    await button('Switch on').click();
    await visit.page.waitForURL(/alarms\/\d+$/);
    const id = /\d+$/.exec(visit.page.url())?.[0];
    const answer = await visit.page.request.get(`${visit.app.origin}/api/v1/alarms/${id}`);
    return ((await answer.json()) as { definition: { rule: { levels: object[] } } }).definition;
  }

  it('from a panel, with two severities', async () => {
    await open('/');
    await visit.page
      .getByRole('navigation', { name: 'Index' })
      .getByRole('link', { name: /Machines/ })
      .click();
    await button('More of Processor use').click();
    await visit.page.getByRole('link', { name: 'Alarm on this' }).click();
    await visit.page.waitForURL('**/alarms/new**');
    await field('Threshold').fill('80');
    await button('+ another severity').click();
    await field('Threshold, critical').fill('95');
    const { rule } = await switchedOn('Two severities');
    expect(rule.levels).to.deep.equal([
      { severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 80 } },
      { severity: 'critical', condition: { kind: 'threshold', is: 'above', limit: 95 } }
    ]);
  });

  it('the line of the threshold is dragged, and what it would have done follows', async () => {
    await open('/alarms/new');
    await field('Windows needed').fill('1');
    await field('Windows looked at').fill('1');
    await field('Threshold').fill('80');
    await field('Threshold').blur();
    await until('none raised', async () => (await timesRaised()) === 0);
    const chart = visit.page.getByLabel('The history against the threshold');
    const box = (await chart.boundingBox())!;
    // The axis of a share goes from 0 to 100; where its line is, the pointer says.
    const across = box.x + box.width / 2;
    let at = NaN;
    for (let y = box.y + 2; y < box.y + box.height && Number.isNaN(at); y += 2) {
      await visit.page.mouse.move(across, y);
      if ((await chart.evaluate((node) => getComputedStyle(node).cursor)) === 'ns-resize') at = y;
    }
    expect(at, 'the line is found').not.to.equal(NaN);
    await visit.page.mouse.move(across, at + 3);
    await visit.page.mouse.down();
    for (let step = 1; step <= 10; step++)
      await visit.page.mouse.move(across, at + 3 + (step * (box.y + box.height - 30 - at)) / 10);
    const dragged = Number(await field('Threshold').inputValue());
    expect(dragged).to.be.below(40);
    await until('raised while it is dragged', async () => (await timesRaised()) > 0);
    await visit.page.mouse.up();
    await until('replayed in full', async () => (await figures().getAttribute('aria-busy')) === 'false');
    expect(await timesRaised()).to.be.above(0);
    expect(Number(await field('Threshold').inputValue())).to.equal(dragged);
  });

  it('on the anomaly band of a function, which says how young it is', async () => {
    const signal = {
      ...{ version: 2, step: 'PT5M' },
      rows: [
        {
          ...{ name: 'a', metric: 'function.duration', statistic: 'avg' },
          where: [{ label: 'resource', is: ['vessel-position'] }]
        }
      ]
    };
    await open(`/alarms/new?signal=${encodeURIComponent(JSON.stringify(signal))}`);
    await field('Direction').selectOption('above-band');
    await field('Widths').fill('6');
    await visit.page.locator('[data-preflight=band][data-passed=false]').waitFor();
    const { rule } = await switchedOn('Positions slow for the hour');
    expect(rule.levels).to.deep.equal([{ severity: 'major', condition: { kind: 'band', is: 'above', widths: 6 } }]);
  });

  it('of all of several parts: when each held is seen beside when the whole did, and any is not all', async () => {
    await open('/alarms/new?combine=');
    await field('Name, part 1').fill('busy');
    await field('Threshold, part 1').fill('0');
    await field('Name, part 2').fill('never');
    await field('Threshold, part 2').fill('100');
    const lane = (name: string) => visit.page.getByTestId('lanes').getByRole('img', { name: new RegExp(`^${name}:`) });
    await lane('busy')
      .and(visit.page.getByRole('img', { name: /held [1-9]/ }))
      .waitFor();
    await visit.page.getByRole('img', { name: 'never: held 0 times' }).waitFor();
    await visit.page.getByRole('img', { name: 'The whole: raised 0 times' }).waitFor();
    await field('How many parts').selectOption('any');
    await visit.page.getByRole('img', { name: /^The whole: raised [1-9]/ }).waitFor();
    await field('How many parts').selectOption('all');
    await field('Joined').selectOption('resource');
    const { rule, combines, signal } = await switchedOn('Busy and never');
    expect(rule.levels).to.deep.equal([{ severity: 'major', condition: { kind: 'combined', needs: 'all' } }]);
    expect(signal).to.equal(undefined);
    expect(combines).to.nested.include({ 'parts[0].name': 'busy', 'parts[1].name': 'never', 'by[0]': 'resource' });
  });

  it('of alarms that are chosen in the list', async () => {
    await open('/alarms');
    await field('Choose Two severities').check();
    await field('Choose Busy and never').check();
    await visit.page.getByRole('link', { name: 'Combine', exact: true }).click();
    await visit.page.waitForURL('**/alarms/new?combine=**');
    const { combines } = await switchedOn('Both of them');
    expect(combines).to.have.nested.property('parts').that.has.length(2);
  });

  it('a panel shows its anomaly band, or says why there is none', async () => {
    await open('/services/functions/board');
    await button('More of Duration').click();
    await visit.page.getByLabel('Anomaly band').check();
    await visit.page.getByText(/^No anomaly band:/).waitFor();
    await visit.page.getByLabel('Anomaly band').uncheck();
    await until('it is gone', async () => (await visit.page.getByText(/^No anomaly band:/).count()) === 0);
  });

  it('never made the browser complain', () => {
    expect(visit.complaints).to.deep.equal([]);
  });
});
