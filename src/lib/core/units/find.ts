import { conversion } from './arithmetic';
import { everyAtom, usualPrefixes, atomOf, type Atom } from './atom';
import { measureOf, sameExponents, termOf } from './term';
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

const everyUnit: () => readonly Atom[] = (() => {
  let all: readonly Atom[] | null = null;
  return () => (all ??= everyAtom.flatMap((atom) => [atom, ...usualPrefixes(atom)]));
})();

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
  const rank = ({ code, name, symbol, synonyms }: Atom): number => {
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

/** Whether UCUM has a unit of this code, which may be put together of several. @example isCode('kBy/min') // true */
export const isCode = (code: string): boolean =>
  code !== '' && [...termOf(code).keys()].every((atom) => atom.startsWith('{') || atomOf(atom) !== null);

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
  return [...new Set([code, ...codes])].map((one) => offered(one, atomOf(one)?.name ?? one, code));
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

/**
 * What choosing a unit does to the numbers, in words, with one of them as an example; null when it leaves them as they are.
 *
 * @param value one that is shown at present
 * @example rescaling('1', '%', 20.96) // 'Shown in % the numbers are 100 times as large: 20.96 becomes 2,096 %.'
 */
export function rescaling(from: string, to: string, value: number | null): string | null {
  const converted = conversion(from, to);
  if (converted.kind === 'refused' || (converted.scale === 1 && converted.offset === 0)) return null;
  const { scale, offset } = converted;
  const number = (figure: number) => figure.toLocaleString('en', { maximumSignificantDigits: 6 });
  const text = unit(to).text || 'plain numbers';
  const how =
    offset !== 0
      ? 'are converted'
      : scale > 1
        ? `are ${number(scale)} times as large`
        : `are divided by ${number(1 / scale)}`;
  const example =
    value === null
      ? ''
      : `: ${number(value)} becomes ${number(value * scale + offset)}${unit(to).text === '' ? '' : ` ${unit(to).text}`}`;
  return `Shown in ${text} the numbers ${how}${example}.`;
}
