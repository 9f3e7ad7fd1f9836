import { expect } from 'chai';
import { rule, threshold } from '../support/alarm';
import { machineNamed, processorAlarm, stressMachine, type House } from '../support/bussola';
import { Changes } from '../../src/lib/server/base/changes';
import { programOf } from '../support/program';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('acting on resources, as people do it and as alarms do', () => {
  const visit = withVisit({ minutes: 2, who: 'kaja' });
  const ordersOf = (machine: string) =>
    visit.app.standIns.levante.acts.filter(({ resource }) => resource === machineNamed(machine).id);
  const idOf = async (machine: string): Promise<number> => {
    const [row] = await visit.app.db.rows<{ id: number }>(
      `select id from resources where name = $1 and type = 'machine'`,
      [machine]
    );
    return row?.id ?? 0;
  };
  /** Lets time pass until what was begun with a machine is over. */
  const over = (machine: string) =>
    until('it is over', async () => {
      visit.app.clock.pass(0.2);
      const rows = `select 1 from response_runs where resource = $1 and state in ('sending', 'going')`;
      return ordersOf(machine).length > 0 && (await visit.app.db.rows(rows, [machine])).length === 0;
    });
  const form = (machine: string) => visit.page.getByRole('form', { name: `Act on ${machine}` });

  it('restarts a machine from its page: what would happen is said before, and what came of it without a touch', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/resources/${await idOf('freight-desk-1')}`);
    await visit.button('Act on freight-desk-1…').click();
    await form('freight-desk-1').getByLabel('What to do').selectOption('Restart');
    await form('freight-desk-1').getByText('It answers nothing for about a minute.').waitFor();
    expect(ordersOf('freight-desk-1')).to.deep.equal([]);
    await form('freight-desk-1').getByRole('button', { name: 'Do it: restart it' }).click();
    const done = visit.region('What was done with it');
    await done.getByText('freight-desk-1: To restart it: under way.').waitFor();
    await over('freight-desk-1');
    await done.getByText('Restarted').waitFor();
    await done.getByText('Kaja Tamm').waitFor();
    expect(ordersOf('freight-desk-1')).to.have.length(1);
  }).timeout(180_000);

  it('stops one only once its name is typed, and says what its provider refuses', async () => {
    const { app, page } = visit;
    await visit.button('Act on freight-desk-1…').click();
    await form('freight-desk-1').getByLabel('What to do').selectOption('Stop');
    const act = form('freight-desk-1').getByRole('button', { name: 'Do it: stop it' });
    await form('freight-desk-1').getByText('It answers nothing until it is started.').waitFor();
    expect(await act.isDisabled()).to.equal(true);
    await form('freight-desk-1').getByLabel('Name of the resource').fill('freight-desk-2');
    expect(await act.isDisabled()).to.equal(true);
    await form('freight-desk-1').getByLabel('Name of the resource').fill('freight-desk-1');
    // News arrive, and what is typed stays.
    const read = page.waitForResponse((response) => response.url().includes('__data.json'));
    await app.live(1);
    await read;
    expect(await form('freight-desk-1').getByLabel('Name of the resource').inputValue()).to.equal('freight-desk-1');
    await act.click();
    await until('it is ordered', () => ordersOf('freight-desk-1').length === 2);
    await over('freight-desk-1');
    await visit.region('What was done with it').getByText('Stopped').waitFor();
    await visit.button('Act on freight-desk-1…').click();
    await form('freight-desk-1').getByText('stopped; size medium').waitFor();
    expect(
      await form('freight-desk-1').getByLabel('What to do').locator('option:not([hidden])').allInnerTexts()
    ).to.deep.equal(['Start']);
    await page.getByRole('button', { name: 'Cancel' }).click();
  }).timeout(180_000);

  it('is not offered to whoever may not, and refused when they call it', async () => {
    const { app } = visit;
    const oda = await programOf(app, 'oda');
    const id = await idOf('freight-desk-1');
    for (const [method, path] of [
      ['GET', `/resources/${id}/abilities`],
      ['POST', `/resources/${id}/foretell`],
      ['POST', `/resources/${id}/acts`]
    ] as const) {
      const body = method === 'GET' ? undefined : { action: { kind: 'start' } };
      expect((await oda(method, path, body)).status, path).to.equal(403);
    }
    const kaja = await programOf(app, 'kaja');
    const people = (await kaja('GET', '/people')).body as { people: { id: number; name: string; role: string }[] };
    const her = people.people.find(({ name }) => name === 'oda');
    const [account] = await app.db.rows<{ id: number }>(`select id from accounts where name = 'corallo-prod'`);
    await kaja('PUT', `/people/${her?.id}`, { role: 'viewer', teamIds: [], acts: [account?.id] });
    expect((await oda('POST', `/resources/${id}/acts`, { action: { kind: 'start' } })).status).to.equal(201);
    const all = (await oda('GET', `/response-runs?resource=${id}`)).body as { runs: { by: string; text: string }[] };
    expect(all.runs.map(({ by }) => by)).to.deep.equal(['Oda Lind', 'Kaja Tamm', 'Kaja Tamm']);
    expect((await oda('POST', '/responses', {})).status, 'what acts by itself').to.equal(403);
  }).timeout(180_000);

  it('a response is made from its page, and restarts what its alarm has raised for a while', async () => {
    const { app, page } = visit;
    const house = { ...app, bussola: { db: app.db, changes: new Changes() } } as unknown as House;
    await processorAlarm(house, 'gate-api-1', {
      name: 'Gate busy',
      rule: rule(1, 1, { levels: [threshold('above', 80)] })
    });
    await over('freight-desk-1');
    await page.goto(`${app.origin}/responses`);
    await page.getByRole('heading', { level: 1, name: 'Nothing is done by itself' }).waitFor();
    await page.getByRole('link', { name: 'Make the first one' }).click();
    await page.getByLabel('Name', { exact: true }).fill('Restart busy gates');
    await visit.button('Add the response').click();
    await page.getByRole('alert').waitFor();
    await page.getByLabel('Alarm', { exact: true }).selectOption('Gate busy');
    await page.getByLabel('Minutes raised').fill('1');
    await visit.button('Add the response').click();
    await page.getByRole('heading', { level: 1, name: 'Restart busy gates' }).waitFor();
    await app.live(2);
    stressMachine(house, 'gate-api-1', 96, 120);
    await app.live(4);
    await visit.region('What it did').getByText('gate-api-1').waitFor();
    await visit.region('What it did').getByRole('link', { name: 'incident' }).click();
    await visit
      .region('What happened')
      .getByText(/^gate-api-1: To restart it|^gate-api-1: Restarted/)
      .waitFor();
    for (let more = 0; more < 6; more++) await app.live(1);
    await visit
      .region('What happened')
      .getByText(/^gate-api-1: Restarted; cleared .+ later\.$/)
      .waitFor();
    expect(ordersOf('gate-api-1')).to.have.length(1);
  }).timeout(300_000);

  it('acts from an incident as well, which is on its timeline; what fails is said with why', async () => {
    const { app, page } = visit;
    const house = { ...app, bussola: { db: app.db, changes: new Changes() } } as unknown as House;
    await processorAlarm(house, 'quay-display-1', {
      name: 'Quay busy',
      rule: rule(1, 1, { levels: [threshold('above', 80)] })
    });
    await app.live(2);
    stressMachine(house, 'quay-display-1', 96, 120);
    await app.live(3);
    const incident = await until('the incident', async () =>
      (await app.db.rows<{ id: number }>(`select id from incidents where alarm_name = 'Quay busy'`)).at(0)
    );
    app.standIns.levante.actMode = 'failing';
    await page.goto(`${app.origin}/incidents/${incident.id}`);
    await visit.button('Act on quay-display-1…').click();
    await form('quay-display-1').getByLabel('What to do').selectOption('Restart');
    await form('quay-display-1').getByRole('button', { name: 'Do it: restart it' }).click();
    await until('it is ordered', () => ordersOf('quay-display-1').length === 1);
    await over('quay-display-1');
    await visit
      .region('What happened')
      .getByText('quay-display-1: To restart it: failed. The restart failed: nothing was changed.')
      .waitFor();
  }).timeout(240_000);

  it('never made the browser complain', () => expect(visit.complaints).to.deep.equal([]));
});
