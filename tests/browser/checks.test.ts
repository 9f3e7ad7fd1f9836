import { expect } from 'chai';
import { until } from '../support/until';
import { withVisit } from '../support/visit';

describe('reachability checks, as people make and read them', () => {
  const visit = withVisit({ minutes: 2 });
  const row = (name: string) => visit.page.locator(`tr[data-check="${name}"]`);
  const tried = () => visit.region('Try it');
  /** Lets time pass until something is seen. */
  const passing = (what: string, seconds: number, isSeen: () => Promise<boolean>) =>
    until(
      what,
      async () => {
        if (await isSeen()) return true;
        visit.app.clock.pass(seconds / 60);
        return null;
      },
      30_000
    );

  it('says what a check is while there is none', async () => {
    await visit.page.goto(`${visit.app.origin}/checks`);
    await visit.page.getByRole('heading', { level: 1, name: 'Nothing is checked from outside' }).waitFor();
    await visit.page.getByRole('link', { name: 'Make the first one' }).click();
    await visit.page.waitForURL(/\/checks\/new$/);
  });

  it('says what is wrong before it asks, and tries it before it is saved', async () => {
    await tried().getByRole('button', { name: 'Try now' }).click();
    await tried().getByText('Enter an address that begins with http:// or https://.').waitFor();
    await visit.page.getByLabel('Address').fill('http://169.254.169.254/secrets');
    await tried().getByRole('button', { name: 'Try now' }).click();
    await tried().getByText('169.254.169.254 is link-local or reserved, and never called').waitFor();
    await visit.page.getByLabel('Address').fill(`https://127.0.0.1:${visit.app.standIns.front.ports.secure}/tickets`);
    await tried().getByRole('button', { name: 'Try now' }).click();
    await tried()
      .getByText(/^The certificate is not trusted/)
      .waitFor();
    await visit.page.getByLabel('Certificate').selectOption('any certificate in date');
    await visit.page.getByLabel('Words of the answer').fill('like to sail');
    await tried().getByRole('button', { name: 'Try now' }).click();
    await tried()
      .getByText(/^Good, in /)
      .waitFor();
    for (const phase of ['connection', 'TLS handshake', 'wait for the answer', 'reading it'])
      await tried().getByRole('cell', { name: phase, exact: true }).waitFor();
    await tried().getByText('The certificate expires').waitFor();
    expect(await visit.app.db.rows('select id from reachability_checks'), 'nothing is stored').to.deep.equal([]);
  });

  it('is saved, measured at once, and its alarm is recommended while nobody is notified', async () => {
    await visit.page.getByLabel('Name', { exact: true }).fill('Ticket site');
    await visit.page.getByLabel('How often').selectOption('30 seconds');
    await visit.page.getByLabel('Retries').selectOption('when one retry has failed, too');
    await visit.button('Add the check').click();
    await visit.page.waitForURL(/\/checks\/\d+$/);
    await visit.page.getByText(/Every 30 seconds, GET https:.* it is down after 1 retry\.$/).waitFor();
    await visit
      .region('Last attempt')
      .getByText(/^Good, in /)
      .waitFor();
    await visit.page.goto(`${visit.app.origin}/checks`);
    await visit.page.getByRole('heading', { level: 1, name: 'The check is up' }).waitFor();
    await visit.page.getByText('No alarm watches whether checks are up').waitFor();
    await passing('the metric', 30, async () => {
      const [found] = await visit.app.db.rows(`select 1 from series where metric = 'check.up'`);
      return found !== undefined;
    });
    await visit.page.getByRole('link', { name: 'See the recommended alarms' }).click();
    await visit.page.getByText('From outside it does not answer').first().waitFor();
  });

  it('is seen down without touching the page, with the reason and since when, and up again', async () => {
    await visit.page.goto(`${visit.app.origin}/checks`);
    await row('Ticket site').getByText('up', { exact: true }).waitFor();
    visit.app.standIns.front.behaving.tickets = 'failing';
    await passing('down', 15, () => row('Ticket site').getByText('down', { exact: true }).isVisible());
    await row('Ticket site').getByText('Answered 500.').waitFor();
    await visit.page.getByRole('heading', { level: 1, name: '1 of 1 check is down' }).waitFor();
    await row('Ticket site').getByRole('link', { name: 'Ticket site' }).click();
    const failures = visit.region('Failures and changes');
    await failures.getByText('Answered 500.').nth(1).waitFor();
    await visit.page.goto(`${visit.app.origin}/events`);
    await visit.region('Events').getByText('Ticket site is down: Answered 500.').first().waitFor();
    visit.app.standIns.front.behaving.tickets = 'well';
    await visit.page.goto(`${visit.app.origin}/checks`);
    await passing('up', 15, () => row('Ticket site').getByText('up', { exact: true }).isVisible());
  });

  it('what somebody else saved meanwhile is not lost, nor what is being typed', async () => {
    await row('Ticket site').getByRole('link', { name: 'Ticket site' }).click();
    await visit.page.waitForURL(/\/checks\/\d+$/);
    await visit.page.getByLabel('Words of the answer').fill('Where would');
    const id = Number(new URL(visit.page.url()).pathname.split('/').at(-1));
    const [stored] = await visit.app.db.rows<{ definition: Record<string, unknown>; version: number }>(
      'select definition, version from reachability_checks where id = $1',
      [id]
    );
    const { version: _, ...check } = stored?.definition ?? {};
    const put = await visit.page.request.put(`${visit.app.origin}/api/v1/checks/${id}`, {
      data: { check: { ...check, every: 60 }, version: stored?.version }
    });
    expect(put.status()).to.equal(200);
    await visit.page.getByText('changed this check').first().waitFor();
    expect(await visit.page.getByLabel('Words of the answer').inputValue()).to.equal('Where would');
  });

  it('is removed after a question, and its charts stay', async () => {
    await visit.page.reload();
    await visit.page.getByRole('link', { name: 'Charts' }).click();
    await visit.page.getByRole('heading', { level: 1, name: 'Ticket site' }).waitFor();
    await visit.page.getByRole('heading', { name: 'Answer time from outside', exact: true }).waitFor();
    await visit.page.getByRole('link', { name: 'The check' }).click();
    await visit.button('Remove…').click();
    await visit.page.getByText('Remove it? Its history stays.').waitFor();
    await visit.button('Remove').click();
    await visit.page.waitForURL(/\/checks$/);
    await visit.page.getByRole('heading', { level: 1, name: 'Nothing is checked from outside' }).waitFor();
  });

  it('has a board with what is up, down and silent', async () => {
    await visit.page.goto(`${visit.app.origin}/services/reachability/board`);
    await visit.page.getByText('Missing a heartbeat for 5 min').waitFor();
    await visit.page.getByRole('heading', { name: 'Resources by state' }).waitFor();
  });

  it('never made the browser complain', () => expect(visit.complaints).to.deep.equal([]));
});
