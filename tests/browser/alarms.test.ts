import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { counts } from '../support/count';
import { runShell } from '../support/shell';
import { until } from '../support/until';
import { signalOf, withVisit } from '../support/visit';

describe('alarms, as people look after them', () => {
  const visit = withVisit({ minutes: 6 });
  const rowOf = (name: string) => visit.page.locator(`tr[data-alarm="${name}"]`);
  const button = (name: string | RegExp) => visit.page.getByRole('button', { name, exact: true });
  const open = (path: string) => visit.page.goto(`${visit.app.origin}${path}`);

  async function made(name: string, limit: number): Promise<number> {
    const response = await visit.page.request.post(`${visit.app.origin}/api/v1/alarms`, {
      data: {
        name,
        signal: signalOf('machine.processor.use', 'avg', [{ label: 'account', is: ['corallo-prod'] }]),
        rule: {
          levels: [{ severity: 'major', condition: { kind: 'threshold', is: 'above', limit } }],
          window: { needs: 1, of: 1 },
          whenMissing: 'indeterminate'
        },
        route: null
      }
    });
    expect(response.status(), await response.text()).to.equal(201);
    return ((await response.json()) as { id: number }).id;
  }

  it('several are switched off at once, which is taken back', async () => {
    await made('First of two', 99);
    await made('Second of two', 98);
    await open('/alarms');
    await visit.page.getByLabel('Choose First of two').check();
    await visit.page.getByLabel('Choose Second of two').check();
    await button('Switch off').click();
    await visit.page.getByRole('status').getByText('2 alarms switched off.').waitFor();
    await rowOf('First of two').getByText('switched off').waitFor();
    await button('Undo').click();
    await visit.page.getByRole('status').getByText('Taken back for 2 alarms.').waitFor();
    await until('judged again', async () => (await rowOf('First of two').getByText('switched off').count()) === 0);
  });

  it('are filtered, the filter stands in the address, and what is not shown is not changed', async () => {
    await open('/alarms');
    await visit.page.getByLabel('Choose Second of two').check();
    await visit.page.getByLabel('Find an alarm').fill('first');
    await counts(rowOf('Second of two'), 0);
    expect(await visit.page.getByRole('toolbar').count(), 'nothing that is shown is chosen').to.equal(0);
    await visit.page.reload();
    expect(visit.page.url()).to.contain('text=first');
    await rowOf('First of two').waitFor();
    await counts(rowOf('Second of two'), 0);
    await visit.page.getByRole('link', { name: 'Show all', exact: true }).click();
    await rowOf('Second of two').waitFor();
  });

  it('removed ones come back', async () => {
    await open('/alarms');
    await visit.page.getByLabel('Choose Second of two').check();
    await button('Remove…').click();
    await button('Remove').click();
    await until('gone', async () => (await rowOf('Second of two').count()) === 0);
    await button('Undo').click();
    await rowOf('Second of two').waitFor();
  });

  it('preflight mends by a click, and that is taken back', async () => {
    await open(`/alarms/${await made('Never raised', 100)}`);
    const check = visit.page.locator('[data-preflight=threshold][data-passed=false]');
    await check.getByText('never above 100 %').waitFor();
    await check.getByRole('button', { name: 'Use above 80 %' }).click();
    await visit.page.locator('[data-preflight=threshold][data-passed=true]').waitFor();
    expect(await visit.page.getByLabel('Threshold', { exact: true }).inputValue()).to.equal('80');
    await button('Undo the fix').click();
    await check.waitFor();
  });

  it('are exported, changed in an editor, planned, applied, and restored', async () => {
    await open('/alarms/files');
    const [download] = await Promise.all([
      visit.page.waitForEvent('download'),
      visit.page.getByRole('link', { name: /^Export \d alarms as YAML/ }).click()
    ]);
    const text = readFileSync(await download.path(), 'utf8');
    expect(text).to.match(/^kind: alarms\nversion: 2\n/);
    const field = visit.page.getByLabel('The alarms as a file');
    await field.fill(text.replace('limit: 99', 'limitt: 99'));
    await button('See what would change').click();
    await visit.page.getByRole('alert').getByText('It cannot be read. Nothing was changed.').waitFor();
    await field.fill(text.replace('limit: 99', 'limit: 91'));
    await button('See what would change').click();
    const planned = visit.page.locator('[data-planned="First of two"]');
    await planned.getByText('It was raised as major when it is above 99 %; it is when it is above 91 %.').waitFor();
    await button('Apply it').click();
    await visit.page.getByText('Applied: 1 alarm stored.').waitFor();
    await planned.getByRole('link').click();
    await visit.page.getByRole('link', { name: 'Versions' }).click();
    const first = visit.page.locator('tr[data-version="1"]');
    await first.getByRole('button', { name: 'Restore' }).click();
    await visit.page.getByText('It was raised as major when it is above 91 %; it is when it is above 99 %.').waitFor();
  });

  it('recommended ones get limits from the history, and are switched on together', async () => {
    await open('/alarms/recommended?service=databases');
    const offer = visit.page.locator('[data-offer=connections-nearly-used-up]');
    await offer.getByText(/times? raised in 14 days/).waitFor();
    const on = visit.page.getByRole('button', { name: /^Switch on \d alarms?$/ });
    await until('replayed', async () => on.isEnabled());
    await on.click();
    await visit.page
      .getByRole('status')
      .getByText(/\d alarms switched on: Connections nearly used up/)
      .waitFor();
    await open('/alarms?service=databases');
    await rowOf('Connections nearly used up').waitFor();
    await open('/alarms/recommended?service=databases');
    await visit.page.getByText('“Connections nearly used up” watches the same already.').waitFor();
    expect(await visit.page.getByLabel('Switch on Connections nearly used up').isChecked()).to.equal(false);
  });

  it('says why it was not raised, at any moment, from the list of its series', async () => {
    await open('/alarms');
    await rowOf('First of two').getByRole('link').click();
    await visit.page.getByRole('link', { name: 'Why booking-web-1 is clear' }).click();
    await visit.page.getByTestId('standing').getByText('booking-web-1 was clear').waitFor();
    await visit.page.getByText('It is above 99 % in no window; 1 is needed.').waitFor();
    await button('5 min earlier').click();
    await until('the address', () => visit.page.url().includes('at='));
    await visit.page.getByText(/; 1 is needed\./).waitFor();
  });

  it('a threshold has another number at other hours, in the zone that the sentence names', async () => {
    const id = await made('By night', 90);
    await open(`/alarms/${id}`);
    await button('+ other hours or days').click();
    await visit.page.getByLabel('Threshold of exception 1').fill('60');
    await visit.page.getByLabel('Exception 1 from').fill('23:30');
    await visit.page.getByLabel('Days of exception 1').selectOption('Saturday and Sunday');
    await visit.page.getByLabel('Time zone').selectOption('Europe/Rome');
    await button('+ other hours or days').click();
    await visit.page.getByLabel('Exception 2', { exact: true }).selectOption('never');
    await button('Remove exception 1').waitFor();
    await button('Save').click();
    await visit.page.getByRole('status').getByText('Saved.').waitFor();
    const saved = await visit.page.request.get(`${visit.app.origin}/api/v1/alarms/${id}`);
    const { definition } = (await saved.json()) as { definition: { rule: { zone: string; levels: object[] } } };
    expect(definition.rule.zone).to.equal('Europe/Rome');
    expect(definition.rule.levels[0])
      .to.have.nested.property('condition.exceptions')
      .that.deep.equals([
        { times: { hours: { from: '23:30', to: '06:00' }, weekdays: [6, 7] }, limit: 60 },
        { times: { hours: { from: '22:00', to: '06:00' } }, off: true }
      ]);
    await button('Remove exception 2').click();
    await button('Remove exception 1').click();
    await counts(visit.page.getByLabel('Time zone'), 0);
  });

  it('saving says first what it changes for what is raised', async () => {
    await open(`/alarms/${await made('To be changed', 99)}`);
    await visit.page.getByLabel('Threshold', { exact: true }).fill('0');
    await visit.page
      .getByTestId('consequence')
      .filter({ hasText: /Saving raises .*booking-web-1/ })
      .waitFor();
    await visit.page.getByLabel('Threshold', { exact: true }).fill('99');
    await until('nothing to say', async () => (await visit.page.getByTestId('consequence').count()) === 0);
  });

  it('switching on judges the history as well when that is wanted', async () => {
    const switchedOn = async (name: string, isJudged: boolean) => {
      await open('/alarms/new');
      await visit.page.getByLabel('Name of the alarm').fill(name);
      if (isJudged) await visit.page.getByLabel('Judge the last 14 days as well').check();
      await button('Switch on').click();
      await visit.page.waitForURL(/alarms\/\d+$/);
      return Number(visit.page.url().split('/').at(-1));
    };
    const wanted = (id: number) =>
      visit.app.db.rows<{ from: number }>('select wanted_from as "from" from alarm_history where alarm_id = $1', [id]);
    const [row] = await wanted(await switchedOn('With its history', true));
    expect((visit.app.clock.now() - (row?.from ?? 0)) / 86_400_000).to.be.closeTo(14, 0.01);
    expect(await wanted(await switchedOn('Without', false))).to.deep.equal([]);
  });

  it('from a shell, are exported, planned and applied through the API', async () => {
    const file = join(visit.app.data, 'alarms.yaml');
    const shell = (...flags: string[]) => runShell(visit.app.origin, 'alarms', ...flags);
    expect(await shell('export', 'By night', '--to', file)).to.deep.equal({
      code: 0,
      said: `1 alarm was written to ${file}.\n`
    });
    expect((await shell('plan', file)).said).to.contain('1 of 1 match the file already.');
    writeFileSync(file, readFileSync(file, 'utf8').replace('limit: 90', 'limit: 91'));
    expect((await shell('plan', file)).said).to.contain(
      'Changes of By night:\n  It was raised as major when it is above 90 %'
    );
    expect((await shell('apply', file)).said).to.contain('Applied: 1 stored.');
    writeFileSync(file, readFileSync(file, 'utf8').replace('machine.processor.use', 'no.such.metric'));
    const plan = await shell('plan', file);
    expect([
      plan.code,
      plan.said.includes('It cannot be applied: There is no metric named no.such.metric.')
    ]).to.deep.equal([1, true]);
    expect(await shell('export', 'No such')).to.have.property('code', 1);
  });

  it('never made the browser complain', () => {
    expect(visit.complaints.filter((one) => !/422|400/.test(one))).to.deep.equal([]);
  });
});
