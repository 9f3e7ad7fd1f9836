import { atomOf } from './atom';
import { termOf } from './term';

/** One step of a unit's display scale: values of at least `from` are shown divided by it. */
interface Scale {
  readonly from: number;
  readonly text: string;
}

export interface Unit {
  /** UCUM code, case-sensitive. */
  readonly code: string;
  /** How the unit is written after a number, unscaled. */
  readonly text: string;
  /** Larger and smaller forms, largest first. */
  readonly scales: readonly Scale[];
  /** The natural bounds of a quantity in this unit, when it has any. */
  readonly bounds?: readonly [number, number];
}

/** The unit of shares of one whole, 0 to 1. They are shown in % unless a signal says otherwise. */
export const ratioUnit = '{ratio}';

const binary = (text: string): Scale[] =>
  ['Ti', 'Gi', 'Mi', 'Ki'].map((prefix, index) => ({ from: 1024 ** (4 - index), text: prefix + text }));
const decimal = (text: string): Scale[] => [
  { from: 1e9, text: `G${text}` },
  { from: 1e6, text: `M${text}` },
  { from: 1e3, text: `k${text}` }
];

/** The units known here, by UCUM code. Bytes scale by 1024 (UCUM's Ki, Mi …), rates of things by 1000. */
const known: readonly Unit[] = [
  { code: '%', text: '%', scales: [], bounds: [0, 100] },
  { code: '1', text: '', scales: decimal('') },
  { code: ratioUnit, text: 'share', scales: [], bounds: [0, 1] },
  { code: 'By', text: 'B', scales: binary('B') },
  { code: 'By/s', text: 'B/s', scales: binary('B/s') },
  { code: 'bit/s', text: 'bit/s', scales: decimal('bit/s') },
  { code: '{operation}/s', text: 'ops/s', scales: decimal(' ops/s') },
  {
    code: 's',
    text: 's',
    scales: [
      { from: 86_400, text: 'd' },
      { from: 3600, text: 'h' },
      { from: 60, text: 'min' },
      { from: 1, text: 's' },
      { from: 1e-3, text: 'ms' },
      { from: 1e-6, text: 'µs' }
    ]
  },
  {
    code: 'ms',
    text: 'ms',
    scales: [
      { from: 60_000, text: 'min' },
      { from: 1000, text: 's' },
      { from: 1, text: 'ms' }
    ]
  }
];

/** Texts are requested with every number that is written. */
const texts = new Map<string, string>();

/**
 * The unit of a UCUM code. What is counted is written in the plural. A unit that is not listed here is written by its parts and not scaled; what UCUM does not have is shown as it stands: data are
 * never refused for their unit.
 *
 * @example unit('By').text // 'B'
 * @example unit('MBy/s').text // 'MB/s'
 */
export function unit(code: string): Unit {
  const plain = known.find((candidate) => candidate.code === code);
  if (plain) return plain;
  let text = texts.get(code);
  if (text === undefined) {
    if (texts.size > 1000) texts.clear(); // codes come from outside
    texts.set(code, (text = textOf(code)));
  }
  return { code, text, scales: [] };
}

function textOf(code: string): string {
  const [, counted] = /^\{([a-z -]+)\}$/.exec(code) ?? [];
  if (counted !== undefined) return severalOf(counted);
  const term = termOf(code);
  const thousands = term.get('10*') ?? 0;
  if (term.size === 1 && named[thousands]) return named[thousands];
  if ([...term.keys()].some((atom) => !atom.startsWith('{') && atomOf(atom) === null)) return code.replace(/[{}]/g, '');
  const written = (sign: 1 | -1) =>
    [...term]
      .filter(([, exponent]) => Math.sign(exponent) === sign)
      .map(([atom, exponent]) => `${atomOf(atom)?.symbol ?? atom.replace(/[{}]/g, '')}${raised(Math.abs(exponent))}`);
  const [above, below] = [written(1), written(-1)];
  return `${above.join('·') || (below.length > 0 ? '1' : '')}${below.map((one) => `/${one}`).join('')}`;
}

/** Powers of ten that people call by a name. */
const named: Readonly<Record<number, string>> = { 3: 'thousand', 6: 'million', 9: 'billion' };

const raised = (exponent: number): string =>
  exponent === 1 ? '' : String(exponent).replace(/\d/g, (digit) => '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(digit)] ?? digit);

/** @example severalOf('copy') // 'copies' */
const severalOf = (one: string): string =>
  /[^aeiou]y$/.test(one) ? `${one.slice(0, -1)}ies` : /s$/.test(one) ? one : `${one}s`;
