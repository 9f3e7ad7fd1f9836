import { RE2JS } from 're2js';

/** Compiled patterns that are cached, the oldest given up first. */
const mostCompiled = 1000;
const compiled = new Map<string, (text: string) => boolean>();

/**
 * A test for texts by a pattern that people write: `*` stands for any characters, `?` for one, all else for itself. The whole text is to match. Runs in time linear in
 * the text, whatever the pattern: without `?` by looking for its pieces, else as an automaton.
 *
 * @example wildcard('lab-*')('lab-3') // true
 */
export function wildcard(pattern: string): (text: string) => boolean {
  const known = compiled.get(pattern);
  if (known !== undefined) return known;
  const test = pattern.includes('?') ? automaton(pattern) : stars(pattern);
  if (compiled.size >= mostCompiled) compiled.delete(compiled.keys().next().value as string);
  compiled.set(pattern, test);
  return test;
}

/** Whether a text stands for more than itself. @example isPattern('queue.*') // true */
export const isPattern = (text: string): boolean => /[*?]/.test(text);

/** Whether a text is matched by any of some patterns. @example matchesAny(['lab-*'], 'lab-3') // true */
export const matchesAny = (patterns: readonly string[], text: string): boolean =>
  patterns.some((pattern) => wildcard(pattern)(text));

function automaton(pattern: string): (text: string) => boolean {
  const source = pattern
    .replace(/\*+/g, '*')
    .split(/([*?])/)
    .map((piece) => (piece === '*' ? '.*' : piece === '?' ? '.' : RE2JS.quote(piece)))
    .join('');
  const expression = RE2JS.compile(source, RE2JS.DOTALL);
  return (text) => expression.matches(text);
}

/** {@link wildcard} of patterns in which `*` alone is special: `?` stands for itself. @example stars('why?*')('why? so') // true */
export function stars(pattern: string): (text: string) => boolean {
  if (!pattern.includes('*')) return (text) => text === pattern;
  const [first = '', ...others] = pattern.split('*');
  const last = others.pop() ?? '';
  return (text) => {
    const end = text.length - last.length;
    if (end < first.length || !text.startsWith(first) || !text.endsWith(last)) return false;
    let from = first.length;
    for (const piece of others) {
      const found = text.indexOf(piece, from);
      if (found === -1 || found + piece.length > end) return false;
      from = found + piece.length;
    }
    return true;
  };
}
