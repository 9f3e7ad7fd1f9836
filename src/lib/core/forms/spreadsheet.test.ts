import { expect } from 'chai';
import { plainCell } from './spreadsheet';

describe('a cell of a spreadsheet', () => {
  it('is text, whatever a formula would be taken for', () => {
    for (const text of ['=1+1', '+x', '-x', '@x', '\t=x', '\r=x', '\n+x', '  =x', '\tx', '\rx', '＝x'])
      expect(plainCell(text), JSON.stringify(text)).to.equal(`'${text}`);
    for (const text of ['gate-1', 'a=b', '1', '', "'x", 'é']) expect(plainCell(text)).to.equal(text);
  });
});
