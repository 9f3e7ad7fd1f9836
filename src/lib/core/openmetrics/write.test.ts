import { expect } from 'chai';
import fc from 'fast-check';
import { readExposition } from './parse';
import { writeExposition, type WrittenFamily } from './write';

describe('writing OpenMetrics', () => {
  it('has type, unit, help, values and an end', () => {
    expect(
      writeExposition([
        {
          name: 'sent',
          type: 'counter',
          unit: '',
          help: 'All\n"sent".',
          samples: [{ labels: { to: 'a"\\\n' }, value: 3 }]
        },
        {
          name: 'age_seconds',
          type: 'gauge',
          unit: 'seconds',
          help: 'Age.',
          samples: [{ labels: {}, value: Infinity }]
        },
        { name: 'empty', type: 'gauge', unit: '', help: 'None.', samples: [] }
      ])
    ).to.equal(
      '# TYPE sent counter\n# HELP sent All\\n\\"sent\\".\nsent_total{to="a\\"\\\\\\n"} 3\n' +
        '# TYPE age_seconds gauge\n# UNIT age_seconds seconds\n# HELP age_seconds Age.\nage_seconds +Inf\n# EOF\n'
    );
  });

  it('refuses what would be no name', () => {
    const family = { type: 'gauge', help: '', samples: [{ labels: {}, value: 1 }] } as const;
    expect(() => writeExposition([{ ...family, name: '1st', unit: '' }])).to.throw('1st is no name');
    expect(() => writeExposition([{ ...family, name: 'age', unit: 'seconds' }])).to.throw('does not end with its unit');
  });

  it('is read back as it was, whatever labels say', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.string({ unit: 'grapheme' }), fc.double({ noNaN: true })), { maxLength: 5 }),
        (values) => {
          const family: WrittenFamily = {
            ...{ name: 'depth_meters', type: 'gauge', unit: 'meters', help: 'How deep it is.' },
            samples: values.map(([place, value], index) => ({ labels: { place, index: String(index) }, value }))
          };
          const { samples, faults, complete } = readExposition(writeExposition([family]));
          expect([faults, complete]).to.deep.equal([[], true]);
          expect(samples.map(({ labels, value }) => ({ labels, value }))).to.deep.equal(
            // Minus nothing is nothing once it is written.
            family.samples.map(({ labels, value }) => ({ labels, value: value === 0 ? 0 : value }))
          );
        }
      )
    );
  });
});
