// What chance makes of texts, of JSON and of bytes.
import type { Random } from '../support/random';

/** Parts that have broken programs before. */
export const nasty = [
  '\0',
  '\ud800',
  '\udfff',
  '\ufeff',
  '\u2028',
  '__proto__',
  'constructor',
  'valueOf',
  'toString',
  'hasOwnProperty',
  '[',
  '{',
  '[[[[[[[[[[[[[[[[',
  '{"a":{"a":{"a":{"a":',
  ']',
  '}',
  '"',
  "'",
  '\\',
  '\\x',
  '\\u0000',
  '\n',
  '\r\n',
  '\r',
  ',',
  ';',
  '#',
  '# EOF\n',
  '# EOFx',
  '*?*?*?*?*?*Z',
  '(a+)+$',
  '&anchor',
  '*anchor',
  '<<: *anchor',
  '!!js/function',
  '---\n',
  '...\n',
  '|',
  '- - - - - - ',
  'null',
  'true',
  'NaN',
  'Infinity',
  '-Infinity',
  '1e308',
  '1e999',
  '-0',
  '0x1F',
  '9007199254740993',
  '18446744073709551615',
  '-9223372036854775808',
  '99999999999999999999999999',
  '2026-02-30T00:00:00Z',
  '9999-12-31T23:59:59Z',
  '0001-01-01T00:00:00Z',
  '-271821-04-20T00:00:00Z',
  'Europe/Nowhere',
  'PT0S',
  'P9999Y',
  '=cmd()',
  '<script>',
  '%00',
  '%E0%A4%A',
  '../../..',
  '${1}',
  "';--",
  '\u202e',
  '𝒳',
  'é'
];

const grown = (random: Random): string =>
  random.of(['a', '[', '{"a":', '"', '0', '\n', ',', ' ', '\\', 'é']).repeat(1 + random.below(3000));

/** A text changed at a few places. */
export function changed(random: Random, text: string): string {
  let result = text;
  const times = random.below(5);
  for (let i = 0; i < times; i++) {
    const at = random.below(result.length + 1);
    const to = Math.min(result.length, at + random.below(12));
    const [head, middle, tail] = [result.slice(0, at), result.slice(at, to), result.slice(to)];
    switch (random.below(8)) {
      case 0:
        result = head + random.of(nasty) + middle + tail;
        break;
      case 1:
        result = head + random.of(nasty) + tail;
        break;
      case 2:
        result = head + tail;
        break;
      case 3:
        result = head + middle.repeat(1 + random.below(200)) + tail;
        break;
      case 4:
        result = head + grown(random) + tail;
        break;
      case 5:
        result = head; // cut off
        break;
      case 6:
        result = tail + head;
        break;
      default:
        result = head + String.fromCharCode(random.below(0x3000)) + tail;
    }
  }
  return result.slice(0, 200_000);
}

/** JSON changed in its structure: values replaced, wrapped, doubled or taken away. */
export function changedJson(random: Random, value: unknown, depth = 0): unknown {
  if (random.below(14) === 0) return anything(random);
  if (Array.isArray(value)) {
    const items = value.map((item) => changedJson(random, item, depth + 1));
    if (random.below(10) === 0) items.push(...items);
    return items;
  }
  if (typeof value === 'object' && value !== null) {
    const entries = Object.entries(value).map(([name, item]): [string, unknown] => [
      random.below(25) === 0 ? random.of(nasty) : name,
      changedJson(random, item, depth + 1)
    ]);
    return Object.fromEntries(entries.filter(() => random.below(25) !== 0));
  }
  return value;
}

function anything(random: Random): unknown {
  const deep = 1 + random.below(300);
  switch (random.below(10)) {
    case 0:
      return null;
    case 1:
      return random.of(nasty);
    case 2:
      return Number(random.of(['0', '-1', '1e308', '4e15', '0.1', '2147483648', '-9007199254740991']));
    case 3:
      return [];
    case 4:
      return {};
    case 5:
      return grown(random);
    case 6:
      return random.below(2) === 0;
    case 7:
      return JSON.parse('['.repeat(deep) + ']'.repeat(deep)) as unknown;
    case 8:
      return Array.from({ length: random.below(400) }, () => random.of(nasty));
    default:
      return { [random.of(nasty)]: random.of(nasty) };
  }
}

/** Bytes changed at a few places. */
export function changedBytes(random: Random, bytes: Buffer): Buffer {
  const result = Buffer.from(bytes);
  const times = random.below(6);
  for (let i = 0; i < times && result.length > 0; i++)
    result[random.below(result.length)] = random.of([0, 1, 0x7f, 0x80, 0xff, random.below(256)]);
  const cut = random.below(8) === 0 ? random.below(result.length + 1) : result.length;
  const doubled = random.below(10) === 0 ? Buffer.concat([result, result]) : result;
  return doubled.subarray(0, doubled === result ? cut : doubled.length);
}
