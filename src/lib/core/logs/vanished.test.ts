import { expect } from 'chai';
import { vanishedField } from './vanished';

describe('a field that vanished', () => {
  const [yes, no] = [true, false];

  it('is told by many lines without it after a time with it', () => {
    expect(vanishedField([yes, yes, no, no, no], [0, 2, 0, 8, 9])).to.deep.equal({ cell: 3, lines: 17 });
  });

  it('is not one that some lines never had, that never was, or that few lines lack', () => {
    expect(vanishedField([yes, no, yes, no], [5, 5, 5, 5])).to.equal(null);
    expect(vanishedField([no, no], [50, 50])).to.equal(null);
    expect(vanishedField([yes, no], [0, 9])).to.equal(null);
    expect(vanishedField([yes, yes], [90, 90])).to.equal(null);
    expect(vanishedField([], [])).to.equal(null);
  });

  it('nor one that only a few of many cells ever had', () => {
    expect(vanishedField([no, yes, no, no], [20, 0, 20, 20])).to.equal(null);
    expect(vanishedField([no, yes, yes, no, no], [20, 0, 0, 20, 20])).to.deep.equal({ cell: 3, lines: 40 });
  });
});
