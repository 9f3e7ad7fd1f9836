import { expect } from 'chai';
import { tooDeepLine } from './nesting';

describe('a text that is nested too deeply to be read', () => {
  it('is found on its line, whatever it is nested with', () => {
    expect(tooDeepLine(`a: 1\n${'['.repeat(1300)}`)).to.equal(2);
    expect(tooDeepLine('{"a":'.repeat(1310))).to.equal(1);
    expect(tooDeepLine('- '.repeat(5000))).to.equal(1);
    expect(tooDeepLine(Array.from({ length: 600 }, (_, i) => `${' '.repeat(i)}a:`).join('\n'))).to.be.within(401, 403);
  });

  it('is not one that people write', () => {
    expect(tooDeepLine('')).to.equal(null);
    expect(tooDeepLine(`text: |\n  ${'[x] '.repeat(5000)}\n  :) ${'-'.repeat(150)}\n`)).to.equal(null);
    expect(tooDeepLine(JSON.stringify({ a: [{ b: [[1, 2], [3]] }] }))).to.equal(null);
  });
});
