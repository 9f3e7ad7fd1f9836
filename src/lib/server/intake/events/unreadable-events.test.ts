import { expect } from 'chai';
import { eventOf } from '../../providers/maestro/events';
import { ostroEventOf } from '../../providers/ostro/events';

const good = { id: 'h-1', at: '2026-05-04T08:00:00Z', uri: 'ostro:1', kind: 'restart', text: 'It was restarted.' };

describe('events that cannot be read', () => {
  it('cost themselves alone: what they were and why is told, behind their id', () => {
    expect(ostroEventOf(good)).to.include({ id: 'h-1', resource: 'ostro:1', kind: 'restart' });
    const cases: readonly (readonly [unknown, string])[] = [
      [{ ...good, at: '2026-13-45T99:00:00Z' }, 'at: '],
      [{ ...good, at: '+999999-01-01T00:00:00Z' }, 'at: '],
      [{ ...good, text: 'a\0b' }, 'text contains the character of code 0'],
      [{ ...good, kind: '\ud800' }, 'kind contains half of a character'],
      [{ ...good, uri: undefined }, 'uri: '],
      [{ ...good, text: 'x'.repeat(5000) }, 'text: ']
    ];
    for (const [one, why] of cases) {
      const read = ostroEventOf(one);
      expect(read, JSON.stringify(one)).to.include({ id: 'h-1' });
      expect('why' in read && read.why, JSON.stringify(one)).to.contain(why);
    }
    expect(ostroEventOf('nonsense')).to.include({ id: null });
  });

  it('the same on a stream', () => {
    const data = { at: good.at, subject: { pod: 'till-1' }, kind: 'restart', text: 'Restarted.' };
    expect(eventOf('harbour', '7', JSON.stringify(data))).to.include({ id: 'harbour/7', kind: 'restart' });
    for (const [text, why] of [
      ['{"at":', 'it is no JSON'],
      [JSON.stringify({ ...data, at: '0000-00-00T00:00:00Z' }), 'at: '],
      [JSON.stringify({ ...data, subject: { 'p\0': 'x' } }), 'code 0'],
      [JSON.stringify({ ...data, text: '\udfff' }), 'half of a character'],
      ['null', 'it: ']
    ] as const) {
      const read = eventOf('harbour', '8', text);
      expect(read, text).to.include({ id: 'harbour/8' });
      expect('why' in read && read.why, text).to.contain(why);
    }
    expect(eventOf('harbour', undefined, JSON.stringify(data))).to.include({ id: null, why: 'it has no id' });
  });
});
