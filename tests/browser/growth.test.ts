import { expect } from 'chai';
import { signalOf, withVisit } from '../support/visit';

describe('how something grows, as people look at it', () => {
  const visit = withVisit({ minutes: 2, who: 'oda', app: { days: 1 } });

  it('says what to do without a signal, and that one day is too little of one', async () => {
    const { app, page } = visit;
    await page.goto(`${app.origin}/growth`);
    await page.getByText('Growth of this').waitFor();
    const signal = encodeURIComponent(JSON.stringify(signalOf('machine.processor.use')));
    await page.goto(`${app.origin}/growth?signal=${signal}&title=Processors`);
    await page.getByRole('heading', { level: 1, name: 'Processors' }).waitFor();
    await visit.region('How it goes on').getByText('fewer than 14 days: too little to say how it goes on').waitFor();
    expect(await visit.region('Series').getByRole('row').count()).to.be.above(3);
    await page.getByRole('spinbutton', { name: 'Limit' }).fill('95');
    await visit.region('Series').getByText('Is above 95 %').waitFor();
  });

  it('is opened from a panel, says what was wrong with a signal, and never made the browser complain', async () => {
    const { app, page } = visit;
    const signal = encodeURIComponent(JSON.stringify(signalOf('no.such.metric')));
    const complained = visit.complaints.length;
    await page.goto(`${app.origin}/growth?signal=${signal}`);
    await page.getByRole('alert').waitFor();
    expect(visit.complaints.slice(complained).every((one) => one.includes('422'))).to.equal(true);
    await page.goto(`${app.origin}/services/machines/board`);
    await page.getByLabel('More of Processor use').first().click();
    await page.getByRole('link', { name: 'Growth of this' }).click();
    await visit.region('Series').waitFor();
    expect(visit.complaints.slice(0, complained)).to.deep.equal([]);
  });
});
