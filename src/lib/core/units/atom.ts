import { ucumTable } from './ucum-table';

/** One unit of UCUM, without or with a prefix. */
export interface Atom {
  readonly code: string;
  /** How it is written after a number. */
  readonly symbol: string;
  /** Exponents by what it measures: length, time, mass, angle, temperature, charge, light, information, amount; by itself for what can be converted to nothing else. */
  readonly measures: ReadonlyMap<string, number>;
  /** How many base units one of it is. */
  readonly factor: number;
  /** Where its zero lies, in base units: 273.15 for degrees Celsius. */
  readonly zero: number;
  readonly takesPrefix: boolean;
}

/** Prefixes of UCUM with their names and factors. Those of two letters come first: `da` is not `d` of an `a`. */
export const prefixes: readonly (readonly [code: string, name: string, factor: number])[] = [
  ['Ki', 'kibi', 2 ** 10],
  ['Mi', 'mebi', 2 ** 20],
  ['Gi', 'gibi', 2 ** 30],
  ['Ti', 'tebi', 2 ** 40],
  ['da', 'deka', 10],
  ['Y', 'yotta', 1e24],
  ['Z', 'zetta', 1e21],
  ['E', 'exa', 1e18],
  ['P', 'peta', 1e15],
  ['T', 'tera', 1e12],
  ['G', 'giga', 1e9],
  ['M', 'mega', 1e6],
  ['k', 'kilo', 1e3],
  ['h', 'hecto', 100],
  ['d', 'deci', 0.1],
  ['c', 'centi', 0.01],
  ['m', 'milli', 1e-3],
  ['u', 'micro', 1e-6],
  ['n', 'nano', 1e-9],
  ['p', 'pico', 1e-12],
  ['f', 'femto', 1e-15],
  ['a', 'atto', 1e-18],
  ['z', 'zepto', 1e-21],
  ['y', 'yocto', 1e-24]
];

/** Symbols that the table has not, or not as people write them. */
const symbols: Readonly<Record<string, string>> = {
  d: 'd',
  wk: 'wk',
  bit: 'bit',
  'm[H2O]': 'mH₂O',
  '10*': '10',
  '10^': '10'
};

const atoms: ReadonlyMap<string, Atom> = new Map(
  ucumTable
    .trim()
    .split('\n')
    .map((line) => {
      const [code = '', symbol = '', measures = '', factor = '1', zero = '', metric = ''] = line.split('|');
      const atom: Atom = {
        code,
        symbol: symbols[code] ?? (symbol === '' ? code.replace(/[[\]_]/g, ' ').trim() : symbol),
        measures: new Map(
          measures
            .split(',')
            .filter((one) => one !== '')
            .map((one) => {
              const [dimension = '', exponent] = one.split(' ');
              return [dimension, Number(exponent ?? 1)] as const;
            })
        ),
        factor: Number(factor),
        zero: Number(zero || 0),
        takesPrefix: metric === 'metric'
      };
      return [code, atom] as const;
    })
);

/** Every unit of UCUM without a prefix. */
export const everyAtom: readonly Atom[] = [...atoms.values()];

const prefixed = new Map<string, Atom | null>();

/** A unit of UCUM by its case-sensitive code, without or with a prefix; null for what UCUM does not have. @example atomOf('ms')?.factor // 0.001 */
export function atomOf(code: string): Atom | null {
  const plain = atoms.get(code);
  if (plain) return plain;
  const known = prefixed.get(code);
  if (known !== undefined) return known;
  const found = withPrefix(code);
  if (prefixed.size > 1000) prefixed.clear(); // codes come from outside
  prefixed.set(code, found);
  return found;
}

function withPrefix(code: string): Atom | null {
  for (const [prefix, , factor] of prefixes) {
    if (!code.startsWith(prefix)) continue;
    const base = atoms.get(code.slice(prefix.length));
    if (!base?.takesPrefix) continue;
    return {
      ...base,
      code,
      symbol: `${prefix === 'u' ? 'µ' : prefix}${base.symbol}`,
      factor: base.factor * factor
    };
  }
  return null;
}
