import { expect } from 'chai';
import { textFromInstant, instant } from '../../src/lib/core/time';
import { counts } from '../support/count';
import { withVisit } from '../support/visit';

describe('lines, as whoever looks for a cause reads them', () => {
  const visit = withVisit({ minutes: 2 });
  let key = '';

  /** Sends lines as a program does, so many seconds ago. */
  async function send(...lines: (readonly [ago: number, more: object])[]): Promise<void> {
    const now = visit.app.clock.now();
    const body = lines
      .map(([ago, more]) => JSON.stringify({ time: textFromInstant(instant(now - ago * 1000)), ...more }))
      .join('\n');
    const answer = await fetch(`${visit.app.origin}/api/v1/receive/lines`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson' },
      body
    });
    expect(await answer.json()).to.deep.include({ accepted: lines.length, rejected: 0 });
  }
  const lines = () => visit.region('Lines').locator('tr');
  const open = async (search: string): Promise<void> => {
    await visit.page.goto(`${visit.app.origin}/logs?${new URLSearchParams({ q: search })}`);
  };
  /** Waits until a search is over that has found so many. */
  const counted = async (name: string): Promise<void> => {
    await visit.page.getByRole('heading', { level: 1, name, exact: true }).waitFor();
    await visit.page.getByRole('status').filter({ hasText: 'searching' }).waitFor({ state: 'detached' });
  };

  it('says how lines come where there are none', async () => {
    await visit.page.goto(`${visit.app.origin}/logs`);
    await visit.region('Lines').getByText('No lines have arrived yet.').waitFor();
    await visit.region('Lines').getByRole('link', { name: 'Make a key' }).click();
    await visit.page.getByLabel('Name of the key and its account').fill('collector');
    expect(await visit.page.getByLabel('send logs').isChecked()).to.equal(true);
    await visit.button('Make key').click();
    key = await visit.page.getByTestId('made-key').innerText();
  });

  it('finds what was sent by words and fields, marks it, and shows a line whole', async () => {
    await send(
      [90, { level: 'info', msg: 'served fare PER-SEL in 18 ms', 'service.name': 'quote', took: 18 }],
      [
        80,
        {
          level: 'error',
          msg: 'cannot allocate 64 MiB for the deck plan',
          'service.name': 'seatmap',
          'node.name': 'booking-web-1'
        }
      ],
      [
        79,
        {
          level: 'fatal',
          msg: 'memory cgroup out of memory: killed process 4127 (seatmap)',
          'host.name': 'booking-web-1',
          pid: 4127
        }
      ],
      [70, { level: 'info', msg: 'served fare SEL-PER in 41 ms', 'service.name': 'quote', took: 41 }]
    );
    await open('');
    await counted('4 lines');
    await counts(lines(), 4);
    expect(await lines().first().innerText(), 'the newest first').to.contain('served fare SEL-PER');
    const field = visit.page.getByRole('combobox', { name: 'Search', exact: true });
    await field.fill('killed or "out of memory"');
    await field.press('Enter');
    await counted('1 line');
    expect(await lines().locator('mark').allInnerTexts()).to.deep.equal(['out of memory', 'killed']);
    await visit.page.getByText('4 lines looked at in').waitFor();
    await lines().first().click();
    const margin = visit.region('This line');
    await margin.getByRole('row', { name: 'pid 4127' }).waitFor();
    await margin.getByRole('row', { name: 'resource booking-web-1' }).waitFor();
    await margin.getByRole('link', { name: 'booking-web-1, its metrics' }).waitFor();
    const then = margin.getByRole('list', { name: 'Metrics of booking-web-1 then' });
    await then.getByText('Processor use').waitFor();
    await counts(then.locator('svg'), 3);
  });

  it('narrows a search by a value of a line, and leads back', async () => {
    await open('served');
    await counted('2 lines');
    await lines().filter({ hasText: 'SEL-PER' }).click();
    await visit.region('This line').getByRole('row', { name: 'took 41' }).getByRole('button').click();
    await counted('1 line');
    expect(await visit.page.getByRole('combobox', { name: 'Search', exact: true }).inputValue()).to.equal(
      'served took = 41'
    );
    await visit.page.goBack();
    await visit.page.goBack();
    await counted('2 lines');
  });

  it('shows what stands around a line, and only lines like it', async () => {
    await open('took = 41');
    await lines().first().click();
    const margin = visit.region('This line');
    await visit.button('10 lines around').click();
    await margin.getByText('served fare PER-SEL in 18 ms').waitFor();
    await visit.button('Only lines like it').click();
    await counted('1 line');
  });

  it('shows everything on the node around a line, and what happened at the same time', async () => {
    const at = textFromInstant(instant(visit.app.clock.now() - 120_000));
    const status = await visit.page.evaluate(async (from) => {
      const body = JSON.stringify({ text: 'seatmap 2.9 deployed', from });
      const answer = await fetch('/api/v1/marks', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body
      });
      return answer.status;
    }, at);
    expect(status).to.be.oneOf([200, 201]);
    await open('killed');
    await counted('1 line');
    await lines().first().click();
    const margin = visit.region('This line');
    await margin.getByRole('list', { name: 'At the same time' }).getByText('mark: seatmap 2.9 deployed').waitFor();
    await visit.button('Around it on booking-web-1').click();
    await margin.getByText('cannot allocate 64 MiB for the deck plan').waitFor();
  });

  it('names the place of a search that cannot be read', async () => {
    await open('severity == error');
    await visit.page.getByRole('alert').filter({ hasText: 'is not expected here. It is at =' }).waitFor();
    const field = visit.page.getByRole('combobox', { name: 'Search', exact: true });
    expect(await field.getAttribute('aria-invalid')).to.equal('true');
    await field.fill('severity >= error');
    await field.press('Enter');
    await counted('2 lines');
  });

  it('completes fields and values from what there is, by keys and by the mouse', async () => {
    await open('');
    await counted('4 lines');
    const field = visit.page.getByRole('combobox', { name: 'Search', exact: true });
    await field.pressSequentially('to');
    const offered = visit.page.getByRole('listbox', { name: 'Completions' }).getByRole('option');
    await offered.filter({ hasText: 'took' }).waitFor();
    await field.press('ArrowDown');
    await field.press('Enter');
    expect(await field.inputValue()).to.equal('took ');
    await field.pressSequentially('= ');
    await offered.filter({ hasText: '41' }).click();
    expect(await field.inputValue()).to.equal('took = 41 ');
    await field.press('Enter');
    await counted('1 line');
  });

  it('has the clauses of a search to take away and to turn round', async () => {
    await open('served took = 41');
    await counted('1 line');
    const clauses = visit.page.getByRole('list', { name: 'Clauses of the search' });
    await clauses.getByRole('button', { name: 'took = 41', exact: true }).click();
    await counted('1 line');
    expect(new URL(visit.page.url()).searchParams.get('q')).to.equal('served not took = 41');
    await clauses.getByRole('button', { name: 'Take away: not took = 41' }).click();
    await counted('2 lines');
    await clauses.waitFor({ state: 'detached' });
  });

  it('says which lines are alike, shows only those or leaves them out in one click', async () => {
    await open('');
    await counted('4 lines');
    const alike = visit.region('Lines that are alike');
    const fares = alike.getByRole('listitem').filter({ hasText: 'served fare ‹…› in ‹duration›' });
    expect(await fares.innerText())
      .to.contain('quote')
      .and.to.contain('last');
    await fares.getByRole('button', { name: /^Leave out lines like/ }).click();
    await counted('2 lines');
    await visit.page.goBack();
    await counted('4 lines');
    await fares.getByRole('button', { name: 'served fare ‹…› in ‹duration›', exact: true }).click();
    await counted('2 lines');
  });

  it('counts lines by a field, and narrows by its values', async () => {
    await open('');
    await counted('4 lines');
    const counts = visit.region('Counted by a field');
    await counts.getByLabel('Field').selectOption('stream');
    await counts.getByRole('listitem').filter({ hasText: 'quote' }).getByText('2').waitFor();
    await counts.getByLabel('Field').selectOption('pid');
    await counts.getByText('3 lines without it.').waitFor();
    await counts.getByRole('button', { name: '4127', exact: true }).click();
    await counted('1 line');
    expect(new URL(visit.page.url()).searchParams.get('by')).to.equal('pid');
  });

  it('follows what comes, holds it back while somebody reads, and leads back to the top', async () => {
    await visit.page.setViewportSize({ width: 1280, height: 500 });
    await open('served');
    await counted('2 lines');
    await visit.button('Follow live').click();
    await visit.page.getByText('New lines come in at the top.').waitFor();
    await send(
      ...Array.from({ length: 40 }, (_, index): [number, object] => [
        40 - index,
        { msg: `served fare ${index}`, 'service.name': 'quote' }
      ])
    );
    await lines().filter({ hasText: 'served fare 39' }).waitFor();
    expect(await lines().first().innerText()).to.contain('served fare 39');
    await visit.page.mouse.move(500, 400);
    await visit.page.mouse.wheel(0, 400);
    await visit.button('Go on').waitFor();
    await send([1, { msg: 'served fare held back', 'service.name': 'quote' }]);
    await visit.button('Show 1 new line').waitFor();
    await counts(lines().filter({ hasText: 'held back' }), 0);
    await visit.button('Show 1 new line').click();
    await lines().filter({ hasText: 'held back' }).waitFor();
    expect(await lines().first().innerText()).to.contain('held back');
    await visit.button('Follow live').click();
    await visit.page.getByTestId('following').waitFor({ state: 'detached' });
    await visit.page.setViewportSize({ width: 1280, height: 800 });
  });

  it('shows harmlessly whatever a line holds', async () => {
    const text = '\u001b[31mhostile\u001b[0m <img src=x onerror="document.title=1"> \u202e txt \u0000';
    await send([1, { msg: text, 'service.name': 'quote', __proto__: 'x' }]);
    await open('hostile');
    const shown = await lines().first().innerText();
    expect(shown)
      .to.contain('hostile <img src=x onerror="document.title=1">')
      .and.to.contain('U+202E')
      .and.to.contain('U+0000');
    for (const unseen of ['\u001b', '\u202e', '\u0000']) expect(shown).not.to.contain(unseen);
    expect(await visit.page.title()).to.equal('Logs · Bussola');
  });

  it('never made the browser complain', () => {
    expect(visit.complaints).to.deep.equal([]);
  });
});
