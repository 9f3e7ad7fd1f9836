import { expect } from 'chai';
import fc from 'fast-check';
import { incidentContent } from '../../../../tests/support/incidents';
import { after, minute, times } from '../time';
import { inOwnWords, messageOf, messageTemplatesSchema, shortText, wordNames, wordsProblem } from './index';

const content = incidentContent(7);
const now = after(content.openedAt, times(3, minute));
const dates = { zone: 'Europe/Rome', locale: 'de' } as const;
const link = 'https://bussola.example.test';
const message = messageOf(content, { zone: dates, now, origin: link, acknowledge: `${link}/a/x` });
const written = (templates: object, short = false) =>
  inOwnWords(message, content, messageTemplatesSchema.parse(templates), { dates, now, short });

describe('messages in a workspace’s own words', () => {
  it('have the subject and the text that templates say, and keep their links', () => {
    const {
      subject,
      sentence,
      rows,
      acknowledge,
      link: opens
    } = written({
      subject: '{{severity}} on {{subject}}:\n {{what}} {{value}} ({{limit}}) since {{since}}',
      text: '{{text}}\n{{#rows}}\n- {{name}}: {{text}}\n{{/rows}}\n{{^runbook}}No runbook.{{/runbook}}'
    });
    expect(subject).to.equal('major on booking-web-2: Processor use 93.4 % (limit 80 %) since 10:00');
    expect(sentence)
      .to.match(/^booking-web-2 is raised \(major\)/)
      .and.contain('\n- On: booking-web-2\n');
    expect(sentence.endsWith('No runbook.')).to.equal(true);
    expect([rows, acknowledge, opens]).to.deep.equal([[], `${link}/a/x`, `${link}/incidents/7`]);
  });

  it('dates are in the language of the reader', () => {
    expect(message.rows.find(([name]) => name === 'Since')?.[1]).to.equal('4. Mai 2026, 10:00:00 +02:00');
  });

  it('of a short form the link is never cut', () => {
    const { subject } = written({ short: `{{severity}} {{subject}} ${'long '.repeat(40)}`.slice(0, 199) }, true);
    const short = shortText({ ...message, subject });
    expect([...short].length).to.be.at.most(160);
    expect(short.endsWith(`${link}/a/x`)).to.equal(true);
    expect(written({ subject: 'x', text: 'y' }, true), 'a mail’s words are its own').to.equal(message);
  });

  it('what is empty, and what comes to nothing, is said in the usual words', () => {
    expect(written({})).to.deep.equal(message);
    expect(written({ subject: '{{runbook}}', text: ' {{runbook}} ' })).to.deep.equal(message);
    const test = messageOf({ kind: 'test', by: 'Kaja Tamm' }, { zone: 'UTC', now, origin: link });
    const own = messageTemplatesSchema.parse({ subject: 'x' });
    expect(inOwnWords(test, { kind: 'test', by: 'Kaja Tamm' }, own, { dates, now, short: false })).to.equal(test);
  });

  it('are refused with a name that there is not, with what loads others, and where a list repeats itself', () => {
    expect(wordsProblem('{{severity}} {{wher}}')).to.contain('There is no “wher” in a message.');
    expect(wordsProblem('{{> secret}}')).to.contain('There is no “>secret”');
    expect(wordsProblem('{{#rows}}{{#rows}}{{name}}{{/rows}}{{/rows}}')).to.contain('section rows within rows');
    expect(wordsProblem('{{#rows}}{{name}}')).to.contain('This cannot be read');
    expect(wordsProblem('{{=<% %>=}}<% severity %>'), 'other braces change nothing').to.contain('There is no');
    expect(wordsProblem('{{name}}'), 'a name outside of rows').to.contain('There is no “name”');
    for (const name of Object.keys(wordNames)) expect(wordsProblem(`{{${name}}} {{{${name}}}}`)).to.equal(null);
  });

  it('whatever is written, one that is accepted gives a message of bounded length', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        '{{severity}}',
        '{{#rows}}',
        '{{/rows}}',
        '{{name}}',
        '{{^runbook}}',
        '{{/runbook}}',
        '{{{text}}}',
        '\n'
      ),
      fc.string({ maxLength: 8 })
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        const text = pieces.join('');
        if (wordsProblem(text) !== null) return;
        const { sentence, subject } = written({ subject: text.slice(0, 400).trim(), text });
        expect(sentence.length).to.be.within(1, 20_000);
        expect(subject).to.not.match(/[\r\n]/);
      })
    );
  });
});
