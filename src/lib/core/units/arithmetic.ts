import { unit } from './unit';
import { codeOf, measureOf, sameExponents, termOf, type UnitTerm } from './term';

/**
 * What arithmetic on units gives: the unit, what the values are to be multiplied by, and what is then to be added, where zeros differ as those of degrees do; or why it cannot be done, in
 * words.
 */
export type DerivedUnit =
  | { readonly kind: 'unit'; readonly code: string; readonly scale: number; readonly offset: number }
  | { readonly kind: 'refused'; readonly why: string };

const derived = (code: string, scale = 1, offset = 0): DerivedUnit => ({ kind: 'unit', code, scale, offset });
const refused = (why: string): DerivedUnit => ({ kind: 'refused', why });

/**
 * What values in one unit are to be multiplied by to be in another, and what is then added.
 *
 * @example conversion('KiBy', 'By') // { kind: 'unit', code: 'By', scale: 1024, offset: 0 }
 * @example conversion('Cel', 'K') // { kind: 'unit', code: 'K', scale: 1, offset: 273.15 }
 */
export function conversion(from: string, to: string): DerivedUnit {
  if (from === to) return derived(to);
  const [one, other] = [measureOf(termOf(from)), measureOf(termOf(to))];
  if (!sameExponents(one.dimensions, other.dimensions))
    return refused(`${spoken(from)} cannot be shown as ${spoken(to)}`);
  return derived(to, one.factor / other.factor, (one.zero - other.zero) / other.factor);
}

/**
 * The unit of a sum, a difference or a comparison: both sides measure the same; the right one is converted to the left one's. Counts of unlike things may be
 * added and are plain numbers then; a share (percent) and a count may not.
 *
 * @returns `scale` is for the right side; `offset` too, for comparisons: a sum adds a difference of degrees
 * @example addUnits('By', 'By/s') // { kind: 'refused', why: 'B and B/s do not measure the same' }
 */
export function addUnits(left: string, right: string): DerivedUnit {
  if (left === right) return derived(left);
  const [one, other] = [measureOf(termOf(left)), measureOf(termOf(right))];
  const unlike = refused(`${spoken(left)} and ${spoken(right)} do not measure the same`);
  if (!sameExponents(one.dimensions, other.dimensions)) return unlike;
  if (sameExponents(one.counted, other.counted))
    return derived(left, other.factor / one.factor, (other.zero - one.zero) / one.factor);
  if (one.factor !== other.factor) return unlike;
  const term = new Map([...termOf(left)].filter(([atom]) => !atom.startsWith('{')));
  return derived(codeOf(term));
}

/** @example multiplyUnits('By/s', 's') // { kind: 'unit', code: 'By', scale: 1, offset: 0 } */
export const multiplyUnits = (left: string, right: string): DerivedUnit => product(termOf(left), termOf(right), 1);

/**
 * The unit of a quotient. What both sides have is cancelled; what measures the same in another size becomes a plain number, with a scale.
 *
 * @example divideUnits('By', 'KiBy') // { kind: 'unit', code: '1', scale: 0.0009765625, offset: 0 }
 */
export const divideUnits = (left: string, right: string): DerivedUnit => product(termOf(left), termOf(right), -1);

function product(left: UnitTerm, right: UnitTerm, sign: 1 | -1): DerivedUnit {
  const term = new Map(left);
  for (const [atom, exponent] of right) {
    const sum = (term.get(atom) ?? 0) + sign * exponent;
    if (sum === 0) term.delete(atom);
    else term.set(atom, sum);
  }
  const { dimensions, factor } = measureOf(term);
  if (dimensions.size > 0) return derived(codeOf(term));
  const counted = new Map([...term].filter(([atom]) => atom.startsWith('{')));
  // a percentage of a percentage, or By / KiBy: a plain number, or a number of what is counted
  const onlyPercent = term.get('%') === 1 && term.size === 1;
  return onlyPercent ? derived('%') : derived(codeOf(counted), factor);
}

/**
 * The unit of a power with a whole or a half exponent.
 *
 * @example raiseUnit('s2', 0.5) // { kind: 'unit', code: 's', scale: 1, offset: 0 }
 */
export function raiseUnit(code: string, power: number): DerivedUnit {
  const term = [...termOf(code)].map(([atom, exponent]) => [atom, exponent * power] as const);
  if (term.some(([, exponent]) => !Number.isInteger(exponent)))
    return refused(`${spoken(code)} to the power of ${power} has no unit`);
  return derived(codeOf(new Map(term.filter(([, exponent]) => exponent !== 0))));
}

/** Whether a unit says a plain number, a share or a count: what a logarithm can be taken of. @example isPlain('%') // true */
export const isPlain = (code: string): boolean => measureOf(termOf(code)).dimensions.size === 0;

/** @example spoken('1') // 'a plain number' */
const spoken = (code: string): string => unit(code).text || 'a plain number';
