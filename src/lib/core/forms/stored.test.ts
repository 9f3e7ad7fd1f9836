import { expect } from 'chai';
import { z } from 'zod';
import { readableOf, readStored, unreadableOf, writeStored, type StoredForm } from './stored';

describe('what is stored as JSON', () => {
  const form: StoredForm<{ limits: number[] }> = {
    what: 'The rule',
    version: 3,
    schema: z.strictObject({ limits: z.array(z.number()) }),
    upgrades: [({ most }) => ({ limit: most }), ({ limit }) => ({ limits: [limit] })]
  };

  it('is read back as it was written, with its version beside it', () => {
    expect(writeStored(form, { limits: [5] })).to.equal('{"version":3,"limits":[5]}');
    expect(readStored(form, JSON.parse(writeStored(form, { limits: [5] })), 'a')).to.deep.equal({ limits: [5] });
  });

  it('is upgraded step by step from any older version; without a version it is the first', () => {
    expect(readStored(form, { most: 7 }, 'a')).to.deep.equal({ limits: [7] });
    expect(readStored(form, { version: 2, limit: 7 }, 'a')).to.deep.equal({ limits: [7] });
  });

  it('is refused by name when a newer version wrote it, or it does not fit', () => {
    const refusal = (stored: unknown) => {
      try {
        return readStored(form, stored, 'Load');
      } catch (error) {
        return (error as Error).message;
      }
    };
    expect(refusal({ version: 4, limits: [] })).to.equal(
      'The rule “Load” cannot be read as it is stored. It has version 4, and this Bussola knows up to 3.'
    );
    expect(refusal({ version: 3, limits: ['x'] })).to.match(
      /^The rule “Load” cannot be read as it is stored\. limits\.0: /
    );
    expect(refusal({ version: '3' })).to.match(/Its version is "3"/);
    for (const nonsense of [null, 5, 'x', []]) expect(refusal(nonsense)).to.match(/not an object/);
  });

  it('does not hide others that can be read', () => {
    const rows = [{ most: 1 }, { most: 'x' }, { most: 3 }];
    const read = (row: unknown) => readStored(form, row, '');
    expect(readableOf(rows, read)).to.deep.equal([{ limits: [1] }, { limits: [3] }]);
    expect(unreadableOf(rows, read).map(({ code }) => code)).to.deep.equal(['stored-unreadable']);
    const fails = () => {
      throw new TypeError('of the program itself');
    };
    expect(() => readableOf(rows, fails)).to.throw(TypeError);
  });
});
