import { expect } from 'chai';
import fc from 'fast-check';
import { shownPieces } from './shown';

const shown = (text: string, marks: readonly (readonly [number, number])[] = []) =>
  shownPieces(text, marks).map(({ text: one, kind }) => (kind === 'text' ? one : `${kind}:${one}`));

describe('a line as it is shown', () => {
  it('has what was looked for marked', () => {
    expect(
      shown('out of memory: killed', [
        [7, 13],
        [15, 21]
      ])
    ).to.deep.equal(['out of ', 'marked:memory', ': ', 'marked:killed']);
  });

  it('leaves out the colours of a terminal, and names what cannot be seen', () => {
    expect(shown('\u001b[31mERROR\u001b[0m gone')).to.deep.equal(['ERROR gone']);
    expect(shown('\u001b]0;title\u0007x')).to.deep.equal(['x']);
    expect(shown('a\u0000b\rc')).to.deep.equal(['a', 'hidden:U+0000', 'b', 'hidden:U+000D', 'c']);
    expect(shown('pay \u202e001\u202c now')).to.deep.equal(['pay ', 'hidden:U+202E', '001', 'hidden:U+202C', ' now']);
    expect(shown('tab\there\nnext'), 'what is space stays').to.deep.equal(['tab\there\nnext']);
    expect(shown('<b onclick="x">é 🚢</b>'), 'markup is text').to.deep.equal(['<b onclick="x">é 🚢</b>']);
  });

  it('says how much of a long one is not shown', () => {
    expect(shownPieces('x'.repeat(50), [], 10)).to.deep.equal([
      { text: 'xxxxxxxxxx', kind: 'text' },
      { text: 'and 40 characters more', kind: 'hidden' }
    ]);
  });

  it('holds nothing that is not seen, whatever it is, and loses nothing that is', () => {
    const char = fc.constantFrom('a', ' ', '\u001b', '[', 'm', '3', '\u0000', '\u202e', '🚢', '\n', '\u009b', ']');
    fc.assert(
      fc.property(fc.array(char, { maxLength: 30 }), fc.nat(30), fc.nat(30), (chars, a, b) => {
        const text = chars.join('');
        const [from, to] = [Math.min(a, b, text.length), Math.min(Math.max(a, b), text.length)];
        const pieces = shownPieces(text, from === to ? [] : [[from, to]]);
        for (const piece of pieces)
          for (const unseen of ['\u0000', '\u001b', '\u009b', '\u202e']) expect(piece.text).not.to.contain(unseen);
        const ships = (one: string) => one.split('🚢').length;
        if (from === to)
          expect(ships(pieces.map((piece) => piece.text).join(''))).to.be.at.least(
            text.includes('\u001b') ? 1 : ships(text)
          );
      })
    );
  });
});
