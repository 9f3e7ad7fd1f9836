import { expect } from 'chai';
import { rule } from '../../../../tests/support/alarm';
import { encodeMemory, MemoryDamaged, noMemory, type RememberedSeries } from '../../core/alarm';
import { instant } from '../../core/time';
import { Memories } from './memories';

describe('what alarms remember', () => {
  const series = (until: number): Map<string, RememberedSeries> =>
    new Map([['7', { judgedUntil: instant(until), lastValueAt: null, begins: false, memory: noMemory(rule(1, 1)) }]]);

  it('is not read twice, unless another engine has written', () => {
    const memories = new Memories();
    const bytes = encodeMemory(series(60_000));
    const first = memories.read(1, bytes);
    expect(first.get('7')?.judgedUntil).to.equal(60_000);
    expect(memories.read(1, bytes.slice())).to.equal(first);
    expect(memories.read(2, bytes), 'another alarm').not.to.equal(first);
    const elsewhere = encodeMemory(series(120_000));
    expect(memories.read(1, elsewhere).get('7')?.judgedUntil).to.equal(120_000);
    const own = series(180_000);
    memories.note(1, encodeMemory(own), own);
    expect(memories.read(1, encodeMemory(own))).to.equal(own);
  });

  it('that is damaged is said, not taken for what was known', () => {
    const memories = new Memories();
    const bytes = encodeMemory(series(60_000));
    memories.read(1, bytes);
    expect(() => memories.read(1, bytes.slice(0, 9))).to.throw(MemoryDamaged);
    expect(memories.read(1, bytes).get('7')?.judgedUntil).to.equal(60_000);
  });
});
