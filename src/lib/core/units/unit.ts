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

/**
 * The unit of a UCUM code. What is counted is told in the plural. A code not known here is shown as it stands, unscaled: data are never refused for their unit.
 *
 * @example unit('By').text // 'B'
 */
export function unit(code: string): Unit {
  const plain = known.find((candidate) => candidate.code === code);
  if (plain) return plain;
  const [, counted] = /^\{([a-z -]+)\}$/.exec(code) ?? [];
  return { code, text: counted === undefined ? code.replace(/[{}]/g, '') : severalOf(counted), scales: [] };
}

/** @example severalOf('copy') // 'copies' */
const severalOf = (one: string): string =>
  /[^aeiou]y$/.test(one) ? `${one.slice(0, -1)}ies` : /s$/.test(one) ? one : `${one}s`;
