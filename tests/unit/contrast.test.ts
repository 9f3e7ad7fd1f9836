import { expect } from 'chai';
import { readFileSync } from 'node:fs';

/** The colours a block of the theme sets, by name. */
function coloursOf(selector: string): Record<string, string> {
  const css = readFileSync('src/lib/ui/theme.css', 'utf8');
  const block = css.slice(css.indexOf(`\n${selector} {`)).split('}')[0] ?? '';
  return Object.fromEntries(
    [...block.matchAll(/--([\w-]+):\s*(#[0-9a-f]{6});/g)].map(([, name = '', value = '']): [string, string] => [
      name,
      value
    ])
  );
}

/** Relative luminance, WCAG 2.2. */
function luminance(colour: string): number {
  const [r, g, b] = [1, 3, 5]
    .map((at) => parseInt(colour.slice(at, at + 2), 16) / 255)
    .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
}

const contrast = (a: string, b: string): number => {
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x);
  return (light! + 0.05) / (dark! + 0.05);
};

describe('contrast', () => {
  it('is computed as WCAG does', () => {
    expect(contrast('#000000', '#ffffff')).to.be.closeTo(21, 1e-9);
    expect(contrast('#777777', '#ffffff')).to.be.closeTo(4.48, 0.01);
  });

  for (const [theme, selector] of [
    ['day', ':root'],
    ['night', '.dark']
  ] as const) {
    const colours = coloursOf(selector);
    const ratio = (a: string, b: string) => contrast(colours[a]!, colours[b]!);

    it(`by ${theme}, text is AA on every ground it stands on`, () => {
      for (const text of ['ink', 'quiet', 'deep', 'major', 'critical', 'minor', 'warning', 'ok', 'note'])
        for (const ground of ['ground', 'surface', 'sunk', 'shallow']) {
          if (['minor', 'warning', 'note', 'ok', 'critical', 'major'].includes(text) && ground === 'shallow') continue; // never stands there
          expect(ratio(text, ground), `${text} on ${ground}`).to.be.at.least(4.5);
        }
      expect(ratio('surface', 'deep'), 'text of the main button').to.be.at.least(4.5);
    });

    it(`by ${theme}, lines, marks and the edges of fields are AA against the panels`, () => {
      for (let hue = 1; hue <= 8; hue++) expect(ratio(`hue-${hue}`, 'surface'), `hue ${hue}`).to.be.at.least(3);
      for (const mark of ['edge', 'warning', 'minor', 'major', 'critical', 'ok'])
        expect(ratio(mark, 'surface'), mark).to.be.at.least(3);
    });
  }
});
