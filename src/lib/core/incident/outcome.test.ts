import { expect } from 'chai';
import { closingSchema, outcomeText } from './index';

describe('how an incident ended', () => {
  it('is one of a few, with words that say more', () => {
    expect(outcomeText({ outcome: 'fixed', text: '' })).to.equal('fixed');
    expect(outcomeText({ outcome: 'expected', text: 'Firmware 4.2.' })).to.equal('expected: Firmware 4.2.');
    expect(outcomeText({ outcome: 'false-alarm', text: '' })).to.equal('false alarm: nothing was wrong');
    expect(outcomeText({ outcome: 'false-alarm', text: 'The limit was in the wrong unit.' })).to.equal(
      'false alarm: The limit was in the wrong unit.'
    );
    expect(outcomeText({ outcome: 'other', text: 'Moved to another team.' })).to.equal('Moved to another team.');
  });

  it('needs words where it is something else', () => {
    expect(closingSchema.parse({ outcome: 'fixed' })).to.deep.equal({ outcome: 'fixed', text: '' });
    const { success, error } = closingSchema.safeParse({ outcome: 'other', text: '  ' });
    expect(success).to.equal(false);
    expect(error?.issues[0]).to.include({ message: 'Write how it ended.' });
    expect(closingSchema.safeParse({ outcome: 'ignored' }).success).to.equal(false);
    expect(closingSchema.safeParse({ outcome: 'fixed', text: 'x'.repeat(1001) }).success).to.equal(false);
  });
});
