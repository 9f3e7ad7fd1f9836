import { expect } from 'chai';
import { rule, threshold } from '../../../../tests/support/alarm';
import { hour, instantFromText } from '../time';
import { drawnLimits, otherLimits, withDrawnLimit } from './limits';
import type { Level } from './schema';

describe('limits that are drawn', () => {
  const outside: Level = {
    severity: 'major',
    condition: { kind: 'threshold', is: 'outside', low: 10, high: 90 }
  };
  const several = rule(1, 1, {
    levels: [
      { severity: 'warning', condition: { kind: 'forecast', is: 'above', limit: 95, within: 'P4D', from: 'P2D' } },
      { severity: 'minor', condition: { kind: 'band', is: 'above', widths: 5 } },
      outside,
      threshold('above', 99, 'critical')
    ]
  });

  it('each can be given another number, and the others stay', () => {
    const values = drawnLimits(several).map(({ value }) => value);
    expect(values).to.deep.equal([95, 10, 90, 99]);
    for (const index of values.keys()) {
      const moved = drawnLimits(withDrawnLimit(several, index, 50)).map(({ value }) => value);
      expect(moved).to.deep.equal(values.map((value, of) => (of === index ? 50 : value)));
    }
    expect(withDrawnLimit(several, 9, 50)).to.deep.equal(several);
  });

  it('a clearing threshold is taken along', () => {
    const one = rule(1, 1, {
      levels: [{ severity: 'minor', condition: { kind: 'threshold', is: 'above', limit: 80, clear: 70 } }]
    });
    expect(withDrawnLimit(one, 0, 90).levels[0]?.condition).to.include({ limit: 90, clear: 80 });
  });

  it('are others at other hours, in the zone of the rule, and none where the threshold is off', () => {
    const one = rule(1, 1, {
      zone: 'Europe/Rome',
      levels: [
        {
          severity: 'minor',
          condition: {
            kind: 'threshold',
            is: 'above',
            limit: 80,
            exceptions: [
              { times: { hours: { from: '22:00', to: '06:00' } }, limit: 60 },
              { times: { hours: { from: '12:00', to: '13:00' } }, off: true }
            ]
          }
        }
      ]
    });
    const grid = { start: instantFromText('2026-11-02T00:00:00Z'), step: hour, count: 24 };
    const [other, ...more] = otherLimits(one, grid);
    expect(more).to.deep.equal([]);
    expect(other?.severity).to.equal('minor');
    // In Rome it is an hour later.
    const at = [...(other?.values ?? [])].flatMap((value, of) => (Number.isNaN(value) ? [] : [`${of} ${value}`]));
    expect(at).to.deep.equal(['0 60', '1 60', '2 60', '3 60', '4 60', '21 60', '22 60', '23 60']);
    expect(otherLimits(several, grid)).to.deep.equal([]);
  });
});
