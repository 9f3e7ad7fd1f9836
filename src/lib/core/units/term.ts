import { atomOf } from './atom';

/** A unit taken apart: a product of atoms with exponents, such as By¹ · s⁻¹. Annotations (`{request}`) are atoms that say what is counted. */
export type UnitTerm = ReadonlyMap<string, number>;

/** Longest code that is taken apart. */
const longestCode = 100;

/**
 * Takes a UCUM code apart: atoms, `.`, `/`, exponents and annotations. A code that is not of this form, or of atoms that UCUM does not have, is an atom of its
 * own: it can be compared with itself only.
 *
 * @example termOf('By/s') // Map { 'By' → 1, 's' → -1 }
 */
export function termOf(code: string): UnitTerm {
  const term = code === '1' || code === '' ? new Map<string, number>() : readTerm(code);
  return term ?? new Map([[code, 1]]);
}

function readTerm(code: string): Map<string, number> | null {
  if (code.length > longestCode) return null;
  const term = new Map<string, number>();
  let sign = 1;
  const pieces = code.match(/[./]|\{[^{}]*\}|10[*^]|(?:[A-Za-z%'_]|\[[^[\]]*\])+|-?\d+|./g) ?? [];
  let last: string | null = null;
  for (const piece of pieces) {
    if (piece === '.' || piece === '/') {
      sign = piece === '/' ? -1 : 1;
      last = null;
    } else if (/^-?\d+$/.test(piece)) {
      if (last === null) {
        if (piece !== '1') return null;
      } else {
        term.set(last, (term.get(last) ?? 0) - sign + sign * Number(piece));
        last = null;
      }
    } else if (piece.startsWith('{') || atomOf(piece) !== null) {
      term.set(piece, (term.get(piece) ?? 0) + sign);
      last = piece;
    } else return null;
  }
  for (const [atom, exponent] of term) if (exponent === 0) term.delete(atom);
  return term;
}

/**
 * Writes a term as a UCUM code: what multiplies, then what divides.
 *
 * @example codeOf(new Map([['s', -1], ['By', 1]])) // 'By/s'
 */
export function codeOf(term: UnitTerm): string {
  const written = (exponent: number, atom: string) => (exponent === 1 ? atom : `${atom}${exponent}`);
  const entries = [...term];
  const above = entries.filter(([, exponent]) => exponent > 0).map(([atom, exponent]) => written(exponent, atom));
  const below = entries
    .filter(([, exponent]) => exponent < 0)
    .map(([atom, exponent]) => `/${written(-exponent, atom)}`);
  return (above.join('.') || (below.length > 0 ? '' : '1')) + below.join('');
}

/** What a term measures: exponents by dimension, what is counted, and how many base units one of it is. */
export interface Measure {
  readonly dimensions: ReadonlyMap<string, number>;
  readonly counted: ReadonlyMap<string, number>;
  readonly factor: number;
  /** Where its zero lies, in base units; 0 but for degrees. */
  readonly zero: number;
}

/** @example measureOf(termOf('KiBy/s')).factor // 8192 */
export function measureOf(term: UnitTerm): Measure {
  const dimensions = new Map<string, number>();
  const counted = new Map<string, number>();
  let factor = 1;
  const add = (to: Map<string, number>, key: string, exponent: number) => {
    const sum = (to.get(key) ?? 0) + exponent;
    if (sum === 0) to.delete(key);
    else to.set(key, sum);
  };
  for (const [atom, exponent] of term) {
    if (atom.startsWith('{')) {
      add(counted, atom, exponent);
      continue;
    }
    const { measures, factor: one } = atomOf(atom) ?? { measures: new Map([[atom, 1]]), factor: 1 };
    factor *= one ** exponent;
    for (const [dimension, power] of measures) add(dimensions, dimension, power * exponent);
  }
  // Degrees of a rate or of an area are differences: these have no zero of their own.
  const [only] = term;
  const zero = term.size === 1 && only?.[1] === 1 ? (atomOf(only[0])?.zero ?? 0) : 0;
  return { dimensions, counted, factor, zero };
}

export const sameExponents = (one: ReadonlyMap<string, number>, other: ReadonlyMap<string, number>): boolean =>
  one.size === other.size && [...one].every(([key, exponent]) => other.get(key) === exponent);

/** Whether UCUM has a unit of this code, which may be put together of several. @example isCode('kBy/min') // true */
export const isCode = (code: string): boolean =>
  code !== '' && [...termOf(code).keys()].every((atom) => atom.startsWith('{') || atomOf(atom) !== null);
