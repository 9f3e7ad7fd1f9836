import { conversion } from './arithmetic';
import { everyAtom, atomOf, prefixes, type Atom } from './atom';
import { isCode, measureOf, sameExponents, termOf } from './term';
import { ucumNames } from './ucum-names';
import { unit } from './unit';

/** A unit as it is offered for choice. */
export interface FoundUnit {
  readonly code: string;
  /** Its full name; for what is put together, its code. */
  readonly name: string;
  readonly text: string;
  /** Whether numbers in the present unit can be shown in it. */
  readonly fits: boolean;
}

/** A unit with what people call it. */
interface NamedAtom extends Atom {
  readonly name: string;
  /** Other names by which people look for it. */
  readonly synonyms: string;
}

const names: ReadonlyMap<string, readonly [name: string, synonyms: string]> = new Map(
  ucumNames
    .trim()
    .split('\n')
    .map((line) => {
      const [code = '', name = '', synonyms = ''] = line.split('|');
      return [code, [name, synonyms]] as const;
    })
);

/** Prefixes that people use with a unit: those of bytes are others than those of seconds. */
const usualPrefixes = ({ takesPrefix, measures }: Atom): readonly string[] =>
  !takesPrefix
    ? []
    : measures.has('information')
      ? ['k', 'M', 'G', 'T', 'Ki', 'Mi', 'Gi', 'Ti']
      : ['n', 'u', 'm', 'c', 'k', 'M', 'G'];

const everyUnit: () => readonly NamedAtom[] = (() => {
  let all: readonly NamedAtom[] | null = null;
  const made = (): NamedAtom[] =>
    everyAtom.flatMap((atom) => {
      const [name = atom.code, synonyms = ''] = names.get(atom.code) ?? [];
      const prefixed = usualPrefixes(atom).flatMap((prefix): NamedAtom[] => {
        const found = atomOf(`${prefix}${atom.code}`);
        const called = prefixes.find(([code]) => code === prefix)?.[1] ?? '';
        return found ? [{ ...found, name: `${called}${name}`, synonyms }] : [];
      });
      return [{ ...atom, name, synonyms }, ...prefixed];
    });
  return () => (all ??= made());
})();
const nameOf = (code: string): string => everyUnit().find((one) => one.code === code)?.name ?? code;

const offered = (code: string, name: string, from: string | null): FoundUnit => ({
  code,
  name,
  text: unit(code).text,
  fits: from !== null && conversion(from, code).kind === 'unit'
});

/**
 * Units of UCUM by what people type: a code such as `mm[Hg]`, a symbol such as °C, or a part of a name. A code that is put together, such as `kBy/min`, is found when UCUM can read it. Those that
 * the present unit can be shown in come first.
 *
 * @param from the code of the present unit; null when it is not known
 * @example findUnits('celsius', null)[0].code // 'Cel'
 */
export function findUnits(text: string, from: string | null, most = 30): FoundUnit[] {
  const words = text.trim().toLowerCase();
  if (words === '') return from === null ? [] : alike(from).slice(0, most);
  const rank = ({ code, name, symbol, synonyms }: NamedAtom): number => {
    if (code === text.trim() || symbol === text.trim()) return 0;
    const all = [name, ...synonyms.split(/[;,] ?/)].map((one) => one.toLowerCase());
    if (code.toLowerCase() === words || all.includes(words)) return 1;
    if (all.some((one) => one.startsWith(words))) return 2;
    if (all.some((one) => one.includes(words)) || code.toLowerCase().includes(words)) return 3;
    return Infinity;
  };
  const ranked = everyUnit()
    .map((atom) => ({ rank: rank(atom), unit: offered(atom.code, atom.name, from) }))
    .filter((one) => one.rank < Infinity)
    .sort((a, b) => Number(b.unit.fits) - Number(a.unit.fits) || a.rank - b.rank);
  const own = text.trim();
  const isRead = isCode(own) && atomOf(own) === null;
  const found = ranked.map((one) => one.unit);
  return [...(isRead ? [offered(own, own, from)] : []), ...found].slice(0, most);
}

/** Units that people show a unit's numbers in, of the same dimension. @example alike('By').map(({ code }) => code) // ['By', 'kBy', 'MBy', …] */
export function alike(code: string): FoundUnit[] {
  const { dimensions } = measureOf(termOf(code));
  const isPlain = dimensions.size === 0;
  const usual = isPlain
    ? ['1', '%', '10*3', '10*6']
    : [
        code,
        ...(usualOf.find((codes) => sameExponents(measureOf(termOf(codes[0] ?? '')).dimensions, dimensions)) ?? [])
      ];
  const codes = usual.filter((one) => conversion(code, one).kind === 'unit');
  return [...new Set([code, ...codes])].map((one) => offered(one, nameOf(one), code));
}

/** For each dimension the units that operations work with. */
const usualOf: readonly (readonly string[])[] = [
  ['By', 'kBy', 'MBy', 'GBy', 'TBy', 'KiBy', 'MiBy', 'GiBy', 'TiBy', 'bit'],
  ['By/s', 'kBy/s', 'MBy/s', 'GBy/s', 'KiBy/s', 'MiBy/s', 'GiBy/s', 'bit/s', 'kbit/s', 'Mbit/s', 'Gbit/s'],
  ['s', 'ms', 'us', 'ns', 'min', 'h', 'd', 'wk'],
  ['Cel', 'K', '[degF]'],
  ['W', 'kW', 'MW'],
  ['J', 'kJ', 'kW.h'],
  ['Hz', 'kHz', 'MHz', 'GHz', '/s', '/min', '/h'],
  ['V', 'mV', 'kV'],
  ['A', 'mA'],
  ['m', 'mm', 'cm', 'km'],
  ['Pa', 'hPa', 'kPa', 'bar', 'mbar']
];
