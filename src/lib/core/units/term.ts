/** A unit taken apart: a product of atoms with exponents, such as By¹ · s⁻¹. Annotations (`{request}`) are atoms that say what is counted. */
export type UnitTerm = ReadonlyMap<string, number>;

/** What an atom measures, and how many of the dimension's base unit it is. */
interface Atom {
  readonly dimension: string;
  readonly factor: number;
}

const bases: Readonly<Record<string, Atom>> = {
  s: { dimension: 'time', factor: 1 },
  min: { dimension: 'time', factor: 60 },
  h: { dimension: 'time', factor: 3600 },
  d: { dimension: 'time', factor: 86_400 },
  wk: { dimension: 'time', factor: 604_800 },
  bit: { dimension: 'information', factor: 1 },
  By: { dimension: 'information', factor: 8 },
  m: { dimension: 'length', factor: 1 },
  g: { dimension: 'mass', factor: 1 },
  A: { dimension: 'current', factor: 1 },
  V: { dimension: 'voltage', factor: 1 },
  J: { dimension: 'energy', factor: 1 },
  W: { dimension: 'power', factor: 1 },
  Cel: { dimension: 'temperature', factor: 1 },
  K: { dimension: 'temperature in kelvin', factor: 1 },
  '%': { dimension: '', factor: 0.01 }
};

const prefixes: readonly (readonly [string, number])[] = [
  ['Ki', 2 ** 10],
  ['Mi', 2 ** 20],
  ['Gi', 2 ** 30],
  ['Ti', 2 ** 40],
  ['k', 1e3],
  ['M', 1e6],
  ['G', 1e9],
  ['T', 1e12],
  ['m', 1e-3],
  ['u', 1e-6],
  ['n', 1e-9]
];

/** Atoms that take a prefix: not minutes, days or percent. */
const prefixable = new Set(['s', 'bit', 'By', 'm', 'g', 'A', 'V', 'J', 'W', 'K']);

/** Longest code that is taken apart. */
const longestCode = 100;

/**
 * Takes a UCUM code apart: atoms, `.`, `/`, exponents and annotations. A code that is not of this form, or of atoms not known here, is an atom of its own: it
 * can be compared with itself only.
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
  const pieces = code.match(/[./]|\{[^{}]*\}|[A-Za-z%]+|-?\d+|./g) ?? [];
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

/** What a known atom measures; null for one not known here. @example atomOf('ms') // { dimension: 'time', factor: 0.001 } */
function atomOf(code: string): Atom | null {
  const base = Object.hasOwn(bases, code) ? bases[code] : undefined;
  if (base) return base;
  for (const [prefix, factor] of prefixes) {
    const rest = code.slice(prefix.length);
    if (code.startsWith(prefix) && prefixable.has(rest) && Object.hasOwn(bases, rest))
      return { dimension: (bases[rest] as Atom).dimension, factor: (bases[rest] as Atom).factor * factor };
  }
  return null;
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
    const { dimension, factor: one } = atomOf(atom) ?? { dimension: atom, factor: 1 };
    factor *= one ** exponent;
    if (dimension !== '') add(dimensions, dimension, exponent);
  }
  return { dimensions, counted, factor };
}

export const sameExponents = (one: ReadonlyMap<string, number>, other: ReadonlyMap<string, number>): boolean =>
  one.size === other.size && [...one].every(([key, exponent]) => other.get(key) === exponent);
