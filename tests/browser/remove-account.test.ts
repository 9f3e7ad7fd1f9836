import { expect } from 'chai';
import { programOf } from '../support/program';
import { until } from '../support/until';
import { linesPanel, signalOf, withVisit } from '../support/visit';

describe('an account that is removed while boards show it', () => {
  const visit = withVisit({ minutes: 3, who: 'kaja', app: { days: 1 } });
  const accountOf = async (name: string) =>
    (await visit.app.db.rows<{ id: number }>('select id from accounts where name = $1', [name]))[0]?.id ?? 0;

  it('is named by what uses it; its board goes on with its history, and says when that ends', async () => {
    const { app, page } = visit;
    const board = await visit.made('Machines of prod', [
      {
        ...linesPanel('processors', 0, 0),
        signal: signalOf('machine.processor.use', 'avg', [{ label: 'account', is: ['corallo-prod'] }])
      }
    ]);
    const id = await accountOf('corallo-prod');
    await page.goto(`${app.origin}/accounts/${id}`);
    const part = visit.region('Remove this account');
    await part.getByRole('button', { name: 'Remove…' }).click();
    await part.getByText(/name this account|names this account/).waitFor();
    await part.getByRole('radio', { name: /Keep its history/ }).check();
    await part.getByRole('button', { name: 'Remove account', exact: true }).click();
    await visit.region('Removed accounts').getByText('history stays').waitFor();
    await page.goto(`${app.origin}/boards/${board.id}`);
    await visit.region('Panel processors').locator('canvas').waitFor();
    expect((await page.request.get(`${app.origin}/boards/${board.id}`)).status()).to.equal(200);
  });

  it('has its history erased later, with how far it is; its board is still there, without it', async () => {
    const { app, page } = visit;
    const id = await accountOf('corallo-prod');
    // As many rows as years make: erasing takes a moment.
    await app.db.rows(
      `insert into chunks (account_id, series_id, resolution_ms, period_from, from_at, to_at, points, bytes, changed_at)
       select $1, 1, 3600000, i, i, i + 1, 1, '\\x00', 0 from generate_series(1, 60000) as i`,
      [id]
    );
    await page.goto(`${app.origin}/accounts`);
    const removed = visit.region('Removed accounts');
    await removed.getByRole('button', { name: 'Erase history…' }).click();
    await removed.getByRole('button', { name: 'Erase history', exact: true }).click();
    await removed.getByText(/history is being erased/).waitFor();
    await removed.getByRole('button', { name: 'Stop erasing, keep the rest' }).click();
    await removed.getByText('history stays').waitFor();
    const left = await app.db.rows('select 1 from chunks where account_id = $1', [id]);
    expect(left.length, 'what was not erased yet').to.be.above(0);
    await removed.getByRole('button', { name: 'Erase history…' }).click();
    await removed.getByRole('button', { name: 'Erase history', exact: true }).click();
    await until('it is gone', async () => (await accountOf('corallo-prod')) === 0, 60_000);
    await removed.waitFor({ state: 'detached' });
    for (const table of ['chunks', 'journal', 'series', 'resources', 'series_spans'])
      expect(await app.db.rows(`select 1 from ${table} where account_id = $1 limit 1`, [id]), table).to.deep.equal([]);
    const program = await programOf(app, 'kaja');
    const boards = (await program('GET', '/boards')).body as { boards: { title: string }[] };
    expect(boards.boards.map(({ title }) => title)).to.include('Machines of prod');
    await page.goto(`${app.origin}/boards`);
    await page.getByRole('link', { name: 'Machines of prod' }).click();
    await page.getByRole('heading', { level: 1, name: 'Machines of prod' }).waitFor();
    expect(visit.complaints).to.deep.equal([]);
  });
});
