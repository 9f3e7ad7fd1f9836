import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { counts } from '../support/count';
import { signedIn } from '../support/pages';
import { until } from '../support/until';
import { linesPanel, withVisit, type BoardBody } from '../support/visit';

describe('boards, as people build them', () => {
  const visit = withVisit({ minutes: 4 });
  const { region, button, margin, group, placeOf, kept, made, read } = visit;

  it('is made from nothing: a picture that suits is proposed, others are chosen, and all is kept by itself', async () => {
    await visit.page.goto(`${visit.app.origin}/boards`);
    await visit.page.getByRole('heading', { name: 'No board yet' }).waitFor();
    await button('New board').first().click();
    await visit.page.waitForURL(/boards\/\d+\?edit/);
    await visit.page.getByLabel('Title of the board').fill('Harbour');
    await visit.page.getByLabel('Title of the board').press('Enter');
    await button('Add a panel').click();
    const wanted = visit.page.getByLabel('What do you want to see?');
    const see = async (words: string, found: RegExp, told: RegExp) => {
      await wanted.fill(words);
      await visit.page.getByRole('option', { name: found }).first().waitFor();
      await wanted.press('Enter');
      await visit.page.getByRole('status').filter({ hasText: told }).waitFor();
    };
    await see('messages waiting', /^Messages waiting/, /Messages waiting was added: few series over time/);
    await see('processor use machine', /^Processor use/, /Processor use was added: many resources now/);
    await see('responses class', /^Responses by class/, /Responses by class was added: parts of a whole/);
    await see('replication backlog', /^Backlog/, /Backlog was added/);
    await wanted.fill('explain');
    await wanted.press('Enter');
    await group('Read this first').press('Enter');
    await margin('Panel')
      .getByLabel('Text, in CommonMark')
      .fill('Call **Ivo** first.\n\n- then [Machines](/services/machines/board)');
    await margin('Panel').getByLabel('Title').click();
    await region('Read this first').locator('strong', { hasText: 'Ivo' }).waitFor();
    await group('Backlog').press('Enter');
    await margin('Panel').getByLabel('Picture').selectOption('table');
    await region('Backlog').getByRole('columnheader', { name: 'When' }).waitFor();
    await group('Messages waiting').press('Enter');
    await margin('Panel').getByLabel('Picture').selectOption('gauge');
    await margin('Panel').getByLabel('to', { exact: true }).fill('1000');
    await margin('Panel').getByLabel('danger at').fill('90000');
    await margin('Panel').getByLabel('danger at').press('Tab');
    await margin('Panel').getByRole('alert').getByText('90000 messages lies outside the scale').waitFor();
    await margin('Panel').getByLabel('danger at').fill('900');
    await margin('Panel').getByLabel('danger at').press('Tab');
    await kept().waitFor();
    const id = Number(/boards\/(\d+)/.exec(visit.page.url())?.[1]);
    const board = await until('all that was made', async () => {
      const found = await read(id);
      return found.panels.some(({ picture }) => picture === 'gauge') && found;
    });
    expect(board.title).to.equal('Harbour');
    expect(board.panels.map(({ picture }) => picture)).to.deep.equal(['gauge', 'snapshot', 'stacked', 'table', 'text']);
    await button('Done').click();
    await visit.page.waitForURL(/boards\/\d+$/);
    await visit.page.reload();
    await region('Messages waiting').getByTestId('gauge').first().waitFor();
    await region('Processor use').getByRole('cell', { name: 'booking-web-1' }).waitFor();
    const link = region('Read this first').getByRole('link', { name: 'Machines' });
    await visit.page.goto(`${visit.page.url()}?range=PT1H`);
    await until('a link that keeps the range', async () => (await link.getAttribute('href'))?.includes('range=PT1H'));
  });

  it('a starter fills itself, says what it lacks, and becomes one’s own in one click', async () => {
    await visit.page.goto(`${visit.app.origin}/services/databases/board`);
    await region('Connections in use').locator('canvas').waitFor();
    await visit.page.getByText(/It would also show .*Replica lag.* not collected/).waitFor();
    await button('Copy to my boards').click();
    await visit.page.waitForURL(/boards\/\d+\?edit/);
    await visit.page.getByLabel('Title of the board').fill('Ticket databases');
    await visit.page.getByLabel('Title of the board').press('Enter');
    await group('Read latency').press('Delete');
    await kept().waitFor();
    await visit.page.goto(`${visit.app.origin}/boards`);
    await region('Databases').getByRole('link', { name: 'Ticket databases' }).waitFor();
    await visit.page.getByLabel('Find a board').fill('ticket statements');
    await region('Found').getByRole('link', { name: 'Ticket databases' }).waitFor();
    await visit.page.getByLabel('Find a board').fill('no such words');
    await visit.page.getByText('No board matches these words.').waitFor();
  });

  it('panels are moved and sized by keys and by the pointer, undone, done again, and brought back from the history', async () => {
    const { id } = await made('Moving', [linesPanel('a', 0, 0), linesPanel('b', 6, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await group('Panel a').focus();
    await visit.page.keyboard.press('ArrowDown');
    await visit.page.keyboard.press('Shift+ArrowLeft');
    await visit.page.getByRole('status').filter({ hasText: 'Panel a: column 1, row 2, 5 wide, 4 high' }).waitFor();
    await group('Panel b').focus();
    await visit.page.keyboard.press('ArrowLeft');
    await until('the move', async () => (await placeOf('Panel b')) === 'Panel b: column 6, row 1, 6 wide, 4 high');
    await visit.page.keyboard.press('Control+z');
    await visit.page.keyboard.press('Control+z');
    await until(
      'two steps back',
      async () => (await placeOf('Panel a')) === 'Panel a: column 1, row 2, 6 wide, 4 high'
    );
    await visit.page.keyboard.press('Control+Shift+Z');
    await until('one on again', async () => (await placeOf('Panel a')) === 'Panel a: column 1, row 2, 5 wide, 4 high');
    const handle = region('Panel b').locator('header');
    const box = (await handle.boundingBox())!;
    await visit.page.mouse.move(box.x + 60, box.y + 8);
    await visit.page.mouse.down();
    await visit.page.mouse.move(box.x + 60, box.y + 400, { steps: 12 });
    await visit.page.mouse.up();
    await until('the drag', async () => /row [5-9]/.test((await placeOf('Panel b')) ?? ''));
    await kept().waitFor();
    const after = await until('its place', async () => {
      const { panels } = await read(id);
      return JSON.stringify(panels[1]?.place) !== JSON.stringify(linesPanel('b', 6, 0).place) && panels;
    });
    expect(after[1]?.place).to.have.property('y').that.is.above(3);
    await button('History').click();
    await margin('History')
      .getByRole('button', { name: /^First version/ })
      .click();
    await margin('History').getByText('The panel “Panel b” was moved or sized.').waitFor();
    await margin('History').getByLabel('Compared with').selectOption({ index: 1 });
    await margin('History')
      .getByText(/was moved or sized|They are the same/)
      .first()
      .waitFor();
    await button('Look at it').click();
    await visit.page.getByText('with the numbers of now').waitFor();
    await region('Panel b').locator('canvas').waitFor();
    await button('Back to the board').click();
    await button('Restore this version').click();
    await until('as it began', async () => (await placeOf('Panel b')) === 'Panel b: column 7, row 1, 6 wide, 4 high');
    await until('kept', async () => (await read(id)).panels.every((panel) => (panel.place as { y: number }).y === 0));
  });

  it('two who edit at once see each other; what both changed alike is brought together, and nothing is lost silently', async () => {
    const { id } = await made('Together', [linesPanel('a', 0, 0), linesPanel('b', 6, 0)]);
    const other = (await signedIn(visit.browser, visit.app, 'kaja')).page;
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await other.goto(`${visit.app.origin}/boards/${id}?edit`);
    await other.getByText('Nerea Olmo is changing this board').waitFor();
    const rename = async (of: Page, panel: string, title: string) => {
      await group(panel, of).press('Enter');
      await of.getByLabel('Title', { exact: true }).fill(title);
      await of.getByLabel('Title', { exact: true }).press('Tab');
    };
    await rename(other, 'Panel b', 'Theirs');
    await region('Theirs').waitFor(); // by itself
    await visit.page.route('**/api/v1/boards/*', async (route) =>
      route.request().method() === 'GET' ? route.abort() : route.continue()
    );
    await rename(other, 'Panel a', 'Named by Kaja');
    await until('it is kept', async () => (await read(id)).panels[0]?.title === 'Named by Kaja');
    await rename(visit.page, 'Panel a', 'Named by Nerea'); // without having heard of it
    await visit.page.unroute('**/api/v1/boards/*');
    const told = visit.page.getByRole('list', { name: 'Changed by two at once' });
    await told.getByText('theirs “Named by Kaja” stands, yours was “Named by Nerea”').waitFor();
    await button('Use mine').click();
    await region('Named by Nerea', other).waitFor();
    expect((await read(id)).panels.map(({ title }) => title)).to.deep.equal(['Named by Nerea', 'Theirs']);
    await other.context().close();
  });

  it('what is changed while the server is not reached is kept when it is there again', async () => {
    const { id } = await made('Lost', [linesPanel('a', 0, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await group('Panel a').waitFor();
    await visit.page.route('**/api/v1/boards/*', (route) => route.abort());
    await group('Panel a').press('ArrowDown');
    await visit.page
      .getByText('Bussola cannot be reached. Your changes are saved when the connection is back.')
      .waitFor();
    await visit.page.unroute('**/api/v1/boards/*');
    await kept().waitFor();
    expect((await read(id)).panels[0]?.place).to.include({ y: 1 });
  });

  it('a panel shows the busiest alone, the rest as one line, all again, and in a step that suits the range', async () => {
    const { id } = await made('Busiest', [linesPanel('a', 0, 0)]);
    await visit.page.goto(`${visit.app.origin}/boards/${id}?edit`);
    await group('Panel a').press('Enter');
    const rows = region('Panel a').locator('tbody tr');
    const settings = margin('Panel');
    await settings.getByRole('button', { name: 'all series', exact: true }).click();
    await settings.getByLabel('How many series are shown').fill('2');
    await settings.getByLabel('How many series are shown').press('Tab');
    await until('two lines', async () => (await rows.count()) === 2);
    await settings.getByLabel('What happens to the others').selectOption('avg');
    await region('Panel a')
      .getByRole('cell', { name: /^\d+ others$/ })
      .waitFor();
    await settings.getByLabel('Step').selectOption('auto');
    await settings.getByLabel('Step').selectOption('PT5M'); // there is a way back
    await settings.getByRole('button', { name: 'all series again' }).click();
    await region('Panel a')
      .getByText(/^and \d+ more/)
      .waitFor();
    await kept().waitFor();
  });

  it('sections fold, and keep their panels', async () => {
    const { id } = await made('Sections', [linesPanel('a', 0, 0), { ...linesPanel('b', 0, 0), section: 's1' }], {
      sections: [{ id: 's1', title: 'Host', folded: true }]
    });
    await visit.page.goto(`${visit.app.origin}/boards/${id}`);
    await visit.page.getByText('1 panel folded').waitFor();
    await counts(region('Panel b'), 0);
    await button('Host').click();
    await region('Panel b').locator('canvas').waitFor();
    await button(/^Edit/).click();
    await button('Add a section').click();
    await visit.page.getByLabel('Title of the section').nth(1).fill('Guest');
    await visit.page.getByLabel('Title of the section').nth(1).press('Tab');
    await group('Panel a').press('Enter');
    await visit.page.getByLabel('Lies in').selectOption('Guest');
    await button('Take the heading away').first().click();
    await kept().waitFor();
    const body = (await read(id)) as BoardBody & { sections: { id: string; title: string }[] };
    expect(body.sections.map(({ title }) => title)).to.deep.equal(['Guest']);
    expect(body.panels.map(({ section }) => section)).to.deep.equal([body.sections[0]?.id, undefined]);
  });

  it('leaves nothing to complain of in the browser', () => {
    const expected = /404|Failed to load resource|ERR_FAILED|ERR_INTERNET_DISCONNECTED|Failed to fetch/;
    expect(visit.complaints.filter((text) => !expected.test(text))).to.deep.equal([]);
  });
});
