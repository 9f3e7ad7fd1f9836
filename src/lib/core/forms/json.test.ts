import { expect } from 'chai';
import { jsonOrNull } from './json';

describe('text read as JSON', () => {
  it('is what it says, and null when it says nothing or is cut off', () => {
    expect(jsonOrNull('{"a":[1,null]}')).to.deep.equal({ a: [1, null] });
    for (const text of ['', '{"a":', 'NaN', "{'a':1}"]) expect(jsonOrNull(text), text).to.equal(null);
  });
});
