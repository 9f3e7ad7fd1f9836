import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';

/** A text that people read, and where it stands. */
export interface ReadText {
  readonly file: string;
  readonly line: number;
  readonly text: string;
}

/** Literals of code that are sentences or labels rather than names: they have a space between letters, or begin with a capital and are a word. */
const isProse = (text: string): boolean => /[a-z’]['’]? [a-zA-Z“]/.test(text) || /^[A-Z][a-z]+…?$/.test(text);

/** Texts in the strings of a file of TypeScript. */
export function textsOfCode(file: string, source: string, firstLine = 1): ReadText[] {
  const found: ReadText[] = [];
  const tree = ts.createSourceFile(file, source, ts.ScriptTarget.Latest, true);
  const add = (node: ts.Node, text: string) => {
    if (isProse(text))
      found.push({ file, line: firstLine + tree.getLineAndCharacterOfPosition(node.getStart()).line, text });
  };
  const visit = (node: ts.Node): void => {
    if (ts.isImportDeclaration(node)) return;
    if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) add(node, node.text);
    if (ts.isTemplateExpression(node))
      add(node, [node.head.text, ...node.templateSpans.map(({ literal }) => `…${literal.text}`)].join(''));
    ts.forEachChild(node, visit);
  };
  visit(tree);
  return found;
}

/** Texts of a component: of its script, and of its markup without expressions and addresses. */
export function textsOfComponent(file: string, source: string): ReadText[] {
  const scripts = [...source.matchAll(/<script[^>]*>([\s\S]*?)<\/script>/g)];
  const inScripts = scripts.flatMap(({ 1: code = '', index }) =>
    textsOfCode(file, code, source.slice(0, index).split('\n').length)
  );
  let markup = source;
  for (const [whole] of scripts) markup = markup.replace(whole, whole.replaceAll(/[^\n]/g, ''));
  markup = markup.replaceAll(/<!--[\s\S]*?-->|<style[\s\S]*?<\/style>/g, (part) => part.replaceAll(/[^\n]/g, ''));
  const inMarkup: ReadText[] = [];
  const inExpressions = [...markup.matchAll(/\{([^{}]*)\}/g)].flatMap(({ 1: code = '', index }) =>
    textsOfCode(file, `(${code.replace(/^[#:/@]\w+/, '')})`, markup.slice(0, index).split('\n').length)
  );
  const plain = markup.replaceAll(/\{[^{}]*\}/g, '…').replaceAll(/\{[^{}]*\}/g, '…');
  for (const match of plain.matchAll(/(?:aria-label|title|placeholder|label|alt)="([^"]+)"|>([^<>]+)</g)) {
    const text = (match[1] ?? match[2] ?? '').replaceAll(/\s+/g, ' ').trim();
    if (/[a-zA-Z]{2}/.test(text)) inMarkup.push({ file, line: plain.slice(0, match.index).split('\n').length, text });
  }
  return [...inScripts, ...inMarkup, ...inExpressions];
}

/** Every text of the interface, of messages and of the documentation that people read. */
export function allTexts(): ReadText[] {
  const files = (folder: string, ending: RegExp) =>
    readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile() && ending.test(entry.name) && !/\.(test|d)\.ts$/.test(entry.name))
      // Written for a moment by the test of imports, which may run beside this one.
      .filter((entry) => entry.name !== 'planted.ts')
      .map((entry) => join(entry.parentPath, entry.name));
  return [
    ...files('src', /\.ts$/).flatMap((file) => textsOfCode(file, readFileSync(file, 'utf8'))),
    ...files('src', /\.svelte$/).flatMap((file) => textsOfComponent(file, readFileSync(file, 'utf8'))),
    ...['README.md', ...files('docs', /\.md$/)].flatMap((file) =>
      readFileSync(file, 'utf8')
        .split('\n')
        .map((text, index) => ({ file, line: index + 1, text: text.replaceAll(/`[^`]*`|\]\([^)]*\)/g, '') }))
    )
  ];
}
