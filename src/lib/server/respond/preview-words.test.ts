import { expect } from 'chai';
import { processorAlarm, routeTo, withMachines } from '../../../../tests/support/bussola';
import { rule, threshold } from '../../../../tests/support/alarm';
import { until } from '../../../../tests/support/until';
import { messageTemplatesSchema } from '../../core/notify';
import { messageTemplates, saveTemplates, storedTemplates, unreadableTemplates } from '../notify/message-templates';
import { previewWords } from './preview-words';

describe('what messages say, in the words of a workspace', () => {
  const { house, incidentsOf, mailsTo, stress, live } = withMachines();
  const words = (parts: object) => messageTemplatesSchema.parse(parts);
  const dates = { zone: 'Europe/Rome', locale: 'it' } as const;
  const refusedBy = (work: Promise<unknown>) =>
    work.then(
      () => null,
      (error: unknown) => error
    );
  const parts = () => ({ ...house.bussola, origin: 'https://bussola.example.test' });
  let id = 0;

  it('is previewed on an incident that was raised, in the dates of whoever looks', async () => {
    const alarm = await processorAlarm(house, 'booking-web-2', {
      rule: rule(1, 1, { levels: [threshold('above', 80)] })
    });
    stress('booking-web-2', 95, 3);
    await live(3);
    id = (await until('raised', async () => (await incidentsOf(alarm))[0])).id;
    const subject = '{{subject}}: {{value}}';
    const text = '{{#rows}}{{name}} {{text}}; {{/rows}}';
    const preview = await previewWords(parts(), words({ subject, text, short: 'Look at {{subject}}' }), id, dates);
    expect(preview.mail.subject).to.match(/^booking-web-2: 95(\.\d+)? %$/);
    expect(preview.mail.sentence).to.match(/; Since \d+ mag(gio)? 2026, \d\d:\d\d:00 \+02:00;/);
    expect(preview.short).to.match(/^Look at booking-web-2.* https:\/\/bussola\.example\.test\/a\/…$/);
    const usual = await previewWords(parts(), words({}), id, dates);
    expect(usual.mail.subject).to.match(/^MAJOR booking-web-2: /);
  }).timeout(180_000);

  it('is not previewed with a name that there is not, nor of an incident that there is not', async () => {
    expect(await refusedBy(previewWords(parts(), words({ text: '{{nobody}}' }), id, dates)))
      .to.have.property('message')
      .that.contains('There is no “nobody” in a message.');
    expect(await refusedBy(previewWords(parts(), words({}), 999_999, dates))).to.include({ code: 'not-found' });
  });

  it('is saved once by whoever looked at it last; somebody who did not is refused, with who was first', async () => {
    const { db } = house.bussola;
    expect(await messageTemplates(db)).to.equal(null);
    expect((await storedTemplates(db)).version).to.equal(0);
    const first = await saveTemplates(house.bussola, words({ subject: 'One: {{subject}}' }), 0, 'Kaja Tamm');
    expect([first.changedBy, first.version > 0]).to.deep.equal(['Kaja Tamm', true]);
    const late = saveTemplates(house.bussola, words({ subject: 'Late' }), 0, 'Ivo Brandt');
    expect(await refusedBy(late)).to.include({
      code: 'changed-meanwhile',
      message: 'Kaja Tamm changed them meanwhile.'
    });
    const unusable = saveTemplates(house.bussola, words({ subject: '{{#rows}}' }), first.version, 'Kaja Tamm');
    expect(await refusedBy(unusable)).to.include({ code: 'invalid' });
    const ahead = saveTemplates(house.bussola, words({}), first.version + 1, 'Kaja Tamm');
    expect(await refusedBy(ahead), 'a version that nobody has made').to.include({ code: 'changed-meanwhile' });
    expect((await messageTemplates(db))?.subject).to.equal('One: {{subject}}');
  });

  it('is what the next message says', async () => {
    const { version } = await storedTemplates(house.bussola.db);
    await saveTemplates(house.bussola, words({ subject: 'Mind {{subject}} ({{severity}})' }), version, 'Kaja Tamm');
    const route = await routeTo(house, 'own-words@example.test');
    await processorAlarm(house, 'gate-api-1', {
      ...{ name: 'Own words', route },
      rule: rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' })
    });
    const mails = await until(
      'the mail',
      () => mailsTo('own-words@example.test').length > 0 && mailsTo('own-words@example.test')
    );
    expect(mails[0]?.subject).to.equal('Mind gate-api-1 (major)');
  }).timeout(180_000);

  it('that cannot be read is the usual, is named, and is replaced by what is saved next', async () => {
    const { db } = house.bussola;
    await db.rows(`update message_templates set templates = '{"version": 1, "subject": 7}'`);
    expect(await messageTemplates(db)).to.equal(null);
    expect(await unreadableTemplates(db)).to.have.length(1);
    const stored = await storedTemplates(db);
    expect(stored.templates).to.deep.equal(words({}));
    const saved = await saveTemplates(
      house.bussola,
      words({ short: 'Again {{subject}}' }),
      stored.version,
      'Nerea Olmo'
    );
    expect([saved.templates.short, saved.changedBy]).to.deep.equal(['Again {{subject}}', 'Nerea Olmo']);
    expect(await unreadableTemplates(db)).to.deep.equal([]);
  });
});
