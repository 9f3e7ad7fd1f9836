import { expect } from 'chai';
import fc from 'fast-check';
import { severities } from '../alarm';
import { duration, instant, minute } from '../time';
import { piledUp, type Drawn } from './index';

const at = (minutes: number) => instant(1_777_881_600_000 + minutes * 60_000);
const step = duration(15 * minute);
const drawn = (subject: string, more: Partial<Drawn> = {}): Drawn => ({
  alarm: 'Gate doors',
  subject,
  severity: 'major',
  openedAt: at(0),
  closedAt: null,
  ...more
});
const words = (...incidents: Drawn[]) => piledUp(incidents, step).map((pile) => pile.words);

describe('incidents on a strip of time', () => {
  it('are one pile where they would be drawn upon each other', () => {
    expect(words(drawn('gate-1'), drawn('gate-2', { openedAt: at(1) }), drawn('gate-3', { openedAt: at(20) }))).to.eql([
      'Gate doors: 2, such as gate-1',
      'Gate doors: gate-3'
    ]);
    expect(words(drawn('gate-1'), drawn('web-1', { alarm: 'Processor' }))).to.eql(['2 alarms: 2, such as gate-1']);
  });

  it('stay apart by severity and by when they were over', () => {
    const piles = piledUp(
      [
        drawn('a'),
        drawn('b', { severity: 'critical' }),
        drawn('c', { closedAt: at(40) }),
        drawn('d', { closedAt: at(70) }),
        drawn('e', { closedAt: at(41) })
      ],
      step
    );
    expect(piles.map(({ first, many }) => [first.subject, many])).to.eql([
      ['a', 1],
      ['b', 1],
      ['c', 2],
      ['d', 1]
    ]);
  });

  it('are all counted, once, whatever they are', () => {
    const incident = fc.record({
      alarm: fc.constantFrom('A', 'B'),
      subject: fc.constantFrom('x', 'y'),
      severity: fc.constantFrom(...severities),
      openedAt: fc.integer({ min: 0, max: 90 }).map(at),
      closedAt: fc.option(fc.integer({ min: 90, max: 180 }).map(at))
    });
    fc.assert(
      fc.property(fc.array(incident, { maxLength: 40 }), (incidents) => {
        const piles = piledUp(incidents, step);
        expect(piles.reduce((sum, { many }) => sum + many, 0)).to.equal(incidents.length);
        const alike = (a: Drawn, b: Drawn) =>
          a.severity === b.severity &&
          Math.floor(a.openedAt / step) === Math.floor(b.openedAt / step) &&
          (a.closedAt === null ? b.closedAt === null : b.closedAt !== null) &&
          Math.floor((a.closedAt ?? 0) / step) === Math.floor((b.closedAt ?? 0) / step);
        for (const { first, many } of piles) expect(incidents.filter((one) => alike(first, one))).to.have.length(many);
      })
    );
  });
});
