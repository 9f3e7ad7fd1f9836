/**
 * Why a text cannot be stored, in words; null when it can. PostgreSQL keeps neither the character of code 0 nor half of a pair of UTF-16 codes.
 *
 * @example unstorable('a\0') // 'contains the character of code 0, which cannot be stored'
 */
export function unstorable(text: string): string | null {
  if (text.includes('\0')) return 'contains the character of code 0, which cannot be stored';
  return text.isWellFormed() ? null : 'contains half of a character (a lone surrogate), which cannot be stored';
}

/** The deepest nesting of a value from outside, and how many parts it may have. */
const deepest = 64;
const mostParts = 500_000;

/** Where in a value something stands that cannot be stored or is beyond all bounds, and why. */
export interface Unstorable {
  readonly path: string;
  readonly why: string;
}

/**
 * Looks through a value read from JSON for text that cannot be stored, among keys too, and for nesting without end.
 *
 * @param value without circles
 * @example unstorableIn({ rows: [{ metric: 'a\0' }] }) // { path: 'rows.0.metric', why: 'contains …' }
 */
export function unstorableIn(value: unknown): Unstorable | null {
  let parts = 0;
  const look = (part: unknown, path: readonly (string | number)[]): Unstorable | null => {
    if (++parts > mostParts) return { path: '', why: `has more than ${mostParts} parts` };
    if (typeof part === 'string') return found(unstorable(part), path);
    if (typeof part !== 'object' || part === null) return null;
    if (path.length >= deepest) return { path: path.join('.'), why: `is nested more than ${deepest} deep` };
    for (const [key, inner] of Object.entries(part)) {
      const problem = found(unstorable(key), path) ?? look(inner, [...path, key]);
      if (problem !== null) return problem;
    }
    return null;
  };
  return look(value, []);
}

const found = (why: string | null, path: readonly (string | number)[]): Unstorable | null =>
  why === null ? null : { path: path.join('.'), why };

/**
 * A text that can be stored, with signs in the place of what cannot: for names that others give, where refusing them would lose the thing itself.
 *
 * @example mendedText('till\0') // 'till␀'
 */
export const mendedText = (text: string): string => text.toWellFormed().replaceAll('\0', '␀');

/** {@link mendedText} of all texts of a value, among keys too. @param value of few levels, such as was checked by a schema */
export function mended<T>(value: T): T {
  if (typeof value === 'string') return mendedText(value) as T;
  if (typeof value !== 'object' || value === null) return value;
  if (Array.isArray(value)) return value.map(mended) as T;
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [mendedText(key), mended(inner)])) as T;
}
