import { expect } from 'chai';
import { instantFromText } from '../time';
import { incidentMessage, passedMessage, plainText, unjudgedMessage, type IncidentFacts } from './index';

const facts: IncidentFacts = {
  alarm: 'Processor nearly exhausted',
  severity: 'major',
  subject: 'booking-web-2',
  account: 'corallo-prod',
  region: 'perla-1',
  what: 'Processor use',
  unit: '%',
  condition: { kind: 'threshold', is: 'above', limit: 80 },
  openedAt: instantFromText('2026-05-04T14:05:00Z'),
  writtenAt: instantFromText('2026-05-04T14:10:00Z'),
  closedAt: null,
  value: 93.42,
  peak: 97.1,
  link: 'https://bussola.example.test/incidents/7'
};

describe('the message of an incident', () => {
  it('says in its subject alone what, where, how bad and since when', () => {
    expect(incidentMessage(facts, 'UTC').subject).to.equal(
      'MAJOR booking-web-2: processor use 93.4 % (limit 80 %) since 14:05'
    );
  });

  it('names the day of a time that is not of the day it is written on, by the reader’s clock', () => {
    const writtenAt = instantFromText('2026-05-05T00:10:00Z');
    const closedAt = instantFromText('2026-05-05T00:05:00Z');
    expect(incidentMessage({ ...facts, writtenAt }, 'UTC').subject).to.match(/since Mon 14:05$/);
    expect(incidentMessage({ ...facts, writtenAt }, 'America/New_York').subject).to.match(/since 10:05$/);
    expect(passedMessage({ ...facts, writtenAt, closedAt }, 'UTC').subject).to.match(/from Mon 14:05 to 00:05$/);
    const unjudged = { alarm: 'a', message: 'm', remedy: 'r', link: '', since: facts.openedAt };
    expect(unjudgedMessage({ ...unjudged, writtenAt }, 'UTC').subject).to.match(/since Mon 14:05$/);
  });

  it('has resource, account, since, value against threshold and the link', () => {
    const text = plainText(incidentMessage(facts, 'Europe/Berlin'));
    for (const part of [
      'booking-web-2',
      'corallo-prod, perla-1',
      '2026-05-04 16:05:00 +02:00',
      '93.4 %',
      'above 80 %',
      facts.link
    ])
      expect(text).to.contain(part);
  });

  it('when cleared says for how long and how far it went', () => {
    const cleared = incidentMessage({ ...facts, closedAt: instantFromText('2026-05-04T14:17:00Z'), value: 21 }, 'UTC');
    expect(cleared.subject).to.equal('CLEAR booking-web-2: processor use 21 % after 12 min');
    expect(cleared.rows).to.deep.include(['Peak', '97.1 %']);
  });

  it('a value that is missing is said to be missing', () => {
    expect(incidentMessage({ ...facts, value: NaN }, 'UTC').sentence).to.contain('processor use is no data');
  });
});
