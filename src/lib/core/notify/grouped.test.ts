import { expect } from 'chai';
import fc from 'fast-check';
import { incidentContent } from '../../../../tests/support/incidents';
import { severities, severityBalls } from '../alarm';
import { after, minute, times } from '../time';
import { dismissedMessage, type GroupedIncident } from './message';
import { gravity, groupedMessage, messageContentSchema, messageOf, mostNamed } from './index';

const { kind: _kind, why: _why, nearby: _nearby, notified: _notified, ...facts } = incidentContent(7);
const now = after(facts.openedAt, times(3, minute));
const writing = { zone: 'UTC', now, origin: 'https://bussola.example.test' };
const incident = (changed: Partial<GroupedIncident> = {}): GroupedIncident => ({ ...facts, ...changed });
const subjectOf = (incidents: readonly GroupedIncident[], more = 0, moreClear = 0, moreClosed = 0, together = '') =>
  groupedMessage({ why: 'news', together, incidents, more, moreClear, moreClosed }, writing).subject;

describe('the message about several incidents', () => {
  it('says how many, how bad at most, where and which, the gravest first', () => {
    const all = [incident(), incident({ subject: 'gate-api-1', severity: 'critical' }), incident({ subject: 'berth' })];
    expect(subjectOf(all, 1, 0, 0, 'Machines')).to.equal(
      'CRITICAL 4 raised on Machines: gate-api-1, booking-web-2 and 2 more'
    );
    const { rows, sentence, link } = groupedMessage({ why: 'news', together: '', incidents: all, more: 1 }, writing);
    expect(rows.map(([name]) => name)).to.deep.equal(['gate-api-1', 'booking-web-2', 'berth', 'And']);
    expect(rows[0]?.[1]).to.equal('critical: processor use 93.4 % (limit 80 %) since 08:00');
    expect([sentence, link]).to.deep.equal(['These came up together.', 'https://bussola.example.test/incidents']);
  });

  it('counts those that are not named as what they are: a storm that is over is clear', () => {
    const clear = Array.from({ length: mostNamed }, (_, index) => incident({ news: 'cleared', subject: `m-${index}` }));
    expect(subjectOf(clear, 1980, 1980)).to.equal('CLEAR 2000 clear: m-0, m-1 and 1998 more');
    expect(subjectOf(clear, 1980, 1900, 80)).to.equal('CLEAR 1920 clear, 80 closed: m-0, m-1 and 1998 more');
    const mixed = [incident({ severity: 'warning' }), ...clear.slice(1)];
    expect(subjectOf(mixed, 3, 1, 1)).to.equal('WARNING 2 raised, 20 clear, 1 closed: booking-web-2, m-1 and 21 more');
  });

  it('is of what was closed where nothing is raised or clear', () => {
    const closed = incident({ news: 'dismissed', closedAt: now, ending: 'false alarm (Nerea Olmo)' });
    expect(subjectOf([closed, { ...closed, subject: 'gate-api-1' }])).to.equal(
      'CLOSED 2 closed: booking-web-2, gate-api-1'
    );
    const { rows } = groupedMessage({ why: 'news', together: '', incidents: [closed], more: 0 }, writing);
    expect(rows[0]?.[1]).to.equal('closed while raised, false alarm (Nerea Olmo): Processor nearly exhausted');
  });

  it('whoever did not answer is asked in other words than at first', () => {
    const asked = (why: 'step' | 'repeat' | 'digest') =>
      groupedMessage({ why, together: '', incidents: [incident(), incident({ subject: 'b' })], more: 0 }, writing);
    expect(asked('step').sentence).to.equal('Nobody who was notified before has acknowledged these.');
    expect(asked('repeat').subject).to.match(/, not acknowledged$/);
    expect(asked('digest').subject).to.not.contain('acknowledged');
  });

  it('counts each incident once, whatever has happened to it', () => {
    const some = fc.record({
      severity: fc.constantFrom(...severities),
      news: fc.constantFrom('raised' as const, 'cleared' as const, 'passed' as const, 'dismissed' as const)
    });
    fc.assert(
      fc.property(
        fc.array(some, { minLength: 1, maxLength: mostNamed }),
        fc.nat(50),
        fc.nat(50),
        fc.nat(50),
        (kinds, raised, clear, closed) => {
          const incidents = kinds.map((one, index) => incident({ ...one, subject: `m-${index}` }));
          const subject = subjectOf(incidents, raised + clear + closed, clear, closed);
          const counted = [...subject.matchAll(/(\d+) (raised|clear|closed)/g)].reduce(
            (sum, [, n]) => sum + Number(n),
            0
          );
          expect(counted).to.equal(incidents.length + raised + clear + closed);
          const gravest = Math.max(
            0,
            ...kinds.filter(({ news }) => news === 'raised').map((one) => severityBalls(one.severity))
          );
          const first = subject.split(' ')[0]?.toLowerCase();
          if (gravest > 0) expect(severityBalls(first as (typeof severities)[number])).to.equal(gravest);
          else if (raised === 0) expect(['clear', 'closed']).to.include(first);
        }
      )
    );
  });

  it('of an older Bussola, which knew of no others that were clear, can be read', () => {
    const stored = { kind: 'grouped', why: 'news', together: '', incidents: [incident()], more: 2 };
    const content = messageContentSchema.parse(JSON.parse(JSON.stringify(stored)));
    if (content.kind !== 'grouped') throw new Error(content.kind);
    expect(messageOf(content, writing).subject).to.equal('MAJOR 3 raised: booking-web-2 and 2 more');
  });

  it('puts what is raised before what is over, then the gravest first', () => {
    const order = severities.flatMap((severity) => [
      { severity, news: 'cleared' as const },
      { severity, news: 'raised' as const }
    ]);
    const sorted = order.toSorted((a, b) => gravity(b) - gravity(a));
    expect(sorted.slice(0, severities.length).every(({ news }) => news === 'raised')).to.equal(true);
    expect([sorted[0]?.severity, sorted.at(-1)?.severity]).to.deep.equal(['critical', severities[0]]);
  });
});

describe('the message that a person closed an incident', () => {
  it('says how it ended, who says so, and when somebody hears of it again', () => {
    const { subject, sentence, rows } = dismissedMessage(
      {
        ...facts,
        condition: { kind: 'threshold', is: 'above', limit: 80 },
        value: 93.4,
        peak: 97,
        closedAt: now,
        ending: 'expected: load test (Ivo Brandt)',
        writtenAt: now,
        link: ''
      },
      'UTC'
    );
    expect(subject).to.equal('CLOSED booking-web-2: processor use, expected: load test (Ivo Brandt)');
    expect(sentence).to.contain('closed while its numbers still raise it').and.contain('when it is raised anew');
    expect(rows.map(([name]) => name)).to.deep.equal(['On', 'Raised', 'Closed', 'Raised when']);
  });
});
