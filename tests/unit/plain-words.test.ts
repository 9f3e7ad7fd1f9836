import { expect } from 'chai';
import { allTexts, textsOfCode, textsOfComponent } from '../support/texts';

/** Words that are not used in what people read, with those to write instead. */
const oldWords: readonly (readonly [RegExp, string])[] = [
  [/\b(is|are|was|not) kept\b|\bkept as\b|\bkeep as\b|\bto be kept\b/i, 'saved, stored, retained'],
  [/\b(is|was|are|were) told\b|\btells? (it|nobody|this channel|its channels)\b|\bwho is told\b/i, 'notified'],
  [/\bmend(s|ed|ing)?\b/i, 'fix'],
  [/\bwhat (goes|will go|would go)\b/i, 'what will be removed'],
  [/\blook(s|ed)? (a|the) .* through\b/i, 'check'],
  [/\bbegin with what is chosen\b/i, 'use the current choice as default'],
  [/\bstep on in time\b/i, 'step forward in time'],
  [/\bbring (one|a board|it) in\b/i, 'import'],
  [/\ba copy of (my|your|one’s) own\b/i, 'copy to my boards'],
  [/\bhang\b.*\bwall\b/i, 'wall display'],
  [/\bwhat appears later\b/i, 'resources discovered later'],
  [/\bbe told of\b/i, 'get an alarm on'],
  [/\b(it|which) rests\b|\bis resting\b/i, 'is paused'],
  [/\b(take|taken|takes) away\b|\bput (it )?back\b/i, 'remove, restore'],
  [/\bat hand\b/i, 'favourite'],
  [/\bfrom nothing\b/i, 'from scratch'],
  [/\bjudged by axe\b/i, 'checked with axe'],
  [/\bworked out\b/i, 'computed, calculated, evaluated'],
  [/\bruns? out\b(?! of)/i, 'expires'],
  [/\bkept at hand\b/i, 'favourite']
];
/** Pages on decisions are notes of their time; the list is for what people read to use Bussola. */
const isForUsers = ({ file }: { file: string }) =>
  !file.startsWith('docs/decisions/') && !file.startsWith('docs/checklist');

describe('plain words', () => {
  it('are used in every text of the interface, its messages and the guides', () => {
    const texts = allTexts().filter(isForUsers);
    expect(texts.length).to.be.above(3000);
    const found = texts.flatMap(({ file, line, text }) =>
      oldWords.flatMap(([word, instead]) =>
        word.test(text) ? [`${file}:${line}: "${word.exec(text)?.[0] ?? ''}", write: ${instead}`] : []
      )
    );
    expect(found).to.deep.equal([]);
  });

  it('are looked for in strings, templates, markup and labels, not in names and comments', () => {
    const code =
      "// it is kept\nconst kept = 'value is kept'; const words = `${kept} are told twice`; import 'x is kept';";
    expect(textsOfCode('a.ts', code).map(({ line, text }) => [line, text])).to.deep.equal([
      [2, 'value is kept'],
      [2, '… are told twice']
    ]);
    const component = `<script lang="ts">\n  const a = 'Not yet kept';\n</script>\n<p title="What goes">\n  {a} is kept {#if a}here{/if}\n</p>`;
    const texts = textsOfComponent('a.svelte', component).map(({ text }) => text);
    expect(texts).to.include.members(['Not yet kept', 'What goes']);
    expect(texts.some((text) => text.includes('is kept'))).to.equal(true);
  });
});
