import type { TextSpan } from '../../problem/problem';

/** Sorts of what should not be stored, which are found without a rule of one's own. */
export const secretKinds = ['token', 'card-number', 'mail-address', 'network-address'] as const;
export type SecretKind = (typeof secretKinds)[number];

/** What they are called, also where one stood. */
export const secretNames: Readonly<Record<SecretKind, string>> = {
  token: 'token',
  'card-number': 'card number',
  'mail-address': 'mail address',
  'network-address': 'network address'
};

// Repetitions are bounded, so that no text takes longer than its length times a constant.
const tokens = [
  // The scheme of an HTTP header with what follows it.
  /\b(?:bearer|basic)\s{1,8}([A-Za-z0-9._~+/=-]{8,2000})/giu,
  // Three parts in base64url, the first of which begins a JSON object.
  /\b(eyJ[\w-]{4,2000}\.[\w-]{2,2000}\.[\w-]{2,2000})/gu,
  // A name that says so, then its value.
  /(?:api[_-]?key|access[_-]?key|token|secret|passwd|password|authorization)["']?\s{0,8}[=:]\s{0,8}["']?([^\s"',;&‹›]{4,2000})/giu
];
const schemes = /^(?:bearer|basic)$/iu;
const inToken = /[A-Za-z0-9._~+/=-]/u;
const cards = /(?<![\d.-])\d(?:[ -]?\d){12,18}(?![\d.-])/gu;
const mails = /[A-Za-z0-9._%+-]{1,64}@[A-Za-z0-9-]{1,63}(?:\.[A-Za-z0-9-]{1,63}){1,8}/gu;
const fourParts = /(?<![\d.])(?:\d{1,3}\.){3}\d{1,3}(?![\d.]\d)/gu;
const colons = /(?<![\w:])(?:[0-9a-f]{0,4}:){2,7}[0-9a-f]{0,4}(?![\w:])/giu;
/** Names of fields whose whole value is a secret. */
const secretFields = /(?:^|[._-])(?:api[_-]?key|access[_-]?key|token|secret|passwd|password|authorization)$/iu;

/** Whether the name of a field says that its value is a secret. @example namesSecret('http.request.header.authorization') // true */
export const namesSecret = (name: string): boolean => secretFields.test(name);

/**
 * Where a text has something of a kind, in order and apart from each other. Digits of a card are checked by their last one (Luhn's formula, ISO/IEC 7812-1); addresses of networks as RFC 791 and RFC 4291 write them.
 *
 * @example secretsIn('mail-address', 'to ines@corallo.test') // [[3, 20]]
 */
export function secretsIn(kind: SecretKind, text: string): TextSpan[] {
  switch (kind) {
    case 'token':
      return apart(tokens.flatMap((pattern) => tokensBy(pattern, text)));
    case 'card-number':
      return spansOf(cards, text, isCard);
    case 'mail-address':
      return spansOf(mails, text, () => true);
    case 'network-address':
      return apart([...spansOf(fourParts, text, isFourParts), ...spansOf(colons, text, isColons)]);
    default:
      throw new TypeError(`secretsIn: unknown kind ${JSON.stringify(kind satisfies never)}`);
  }
}

function tokensBy(pattern: RegExp, text: string): TextSpan[] {
  return [...text.matchAll(pattern)].flatMap((found): TextSpan[] => {
    const [whole, value = ''] = found;
    if (schemes.test(value)) return []; // what follows the scheme is found by its own pattern
    const from = found.index + whole.length - value.length;
    let to = from + value.length;
    while (to < text.length && inToken.test(text.charAt(to))) to++;
    return [[from, to]];
  });
}

const spansOf = (pattern: RegExp, text: string, holds: (found: string) => boolean): TextSpan[] =>
  [...text.matchAll(pattern)]
    .filter(([found]) => holds(found))
    .map(({ 0: found, index }): TextSpan => [index, index + found.length]);

function isCard(found: string): boolean {
  const digits = found.replace(/\D/g, '');
  let sum = 0;
  for (let i = 0; i < digits.length; i++) {
    const digit = Number(digits.charAt(digits.length - 1 - i));
    const doubled = digit * 2 > 9 ? digit * 2 - 9 : digit * 2;
    sum += i % 2 === 0 ? digit : doubled;
  }
  return sum > 0 && sum % 10 === 0;
}

const isFourParts = (found: string): boolean => found.split('.').every((part) => Number(part) <= 255);

/** Eight groups, or fewer with a gap: a time of day has neither. */
const isColons = (found: string): boolean => {
  const gaps = found.split('::').length - 1;
  const groups = found.split(':').filter((group) => group !== '').length;
  return gaps === 1 ? groups >= 1 && groups <= 7 : gaps === 0 && groups === 8;
};

/** Spans in their order, those that touch or overlap as one. */
export function apart(spans: readonly TextSpan[]): TextSpan[] {
  const joined: [number, number][] = [];
  for (const [from, to] of [...spans].sort((a, b) => a[0] - b[0])) {
    const last = joined.at(-1);
    if (last !== undefined && from < last[1]) last[1] = Math.max(last[1], to);
    else joined.push([from, to]);
  }
  return joined;
}
