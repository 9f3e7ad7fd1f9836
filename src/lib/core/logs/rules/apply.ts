import { RE2JS } from 're2js';
import type { TextSpan } from '../../problem/problem';
import { valueOfArrived } from '../arrive/admission';
import type { ArrivedLine, ArrivedLines } from '../arrive/gather';
import type { LogFields, LogValue, Origin } from '../line';
import { matcherOf, type SearchedLine } from '../search/match';
import { readSearch } from '../search/read';
import { searchable } from '../searched';
import type { LineRule, Masked } from './line-rule';
import { apart, namesSecret, secretNames, secretsIn } from './secrets';

/** A rule that lines are put through, by its id. */
export interface RuleInForce {
  readonly id: number;
  readonly rule: LineRule;
}

/** How many lines each rule left out or masked, by its id. */
export type RuleHits = Readonly<Record<number, number>>;

/**
 * Leaves out and masks what rules say, before anything is stored. What is left out is decided on what arrived; masks are put over the text, the body, every field and what lines of a program have in common.
 *
 * @example applyRules([{ id: 1, rule: { does: 'mask', name: 'Tokens', account: null, masked: { kind: 'token' } } }], batches).hits // { 1: 3 }
 */
export function applyRules(
  rules: readonly RuleInForce[],
  batches: readonly ArrivedLines[]
): { readonly batches: readonly ArrivedLines[]; readonly hits: RuleHits; readonly leftOut: number } {
  if (rules.length === 0) return { batches, hits: {}, leftOut: 0 };
  let leftOut = 0;
  const hits: Record<number, number> = {};
  const hit = (id: number, lines = 1) => (hits[id] = (hits[id] ?? 0) + lines);
  const leaving = rules.flatMap(({ id, rule }) =>
    rule.does === 'leave-out' ? [{ id, matcher: matcherOf(readSearch(rule.search)) }] : []
  );
  const masks = rules.flatMap(({ id, rule }) => (rule.does === 'mask' ? [{ id, mask: maskOf(rule.masked) }] : []));
  const ruled = batches.map(({ origin, lines }) => {
    const left = lines.filter((line) => {
      const out = leaving.find(({ matcher }) => matcher.matches(searchedOf(origin, line)));
      if (out === undefined) return true;
      hit(out.id);
      leftOut++;
      return false;
    });
    let masked: readonly ArrivedLine[] = left;
    let maskedOrigin = origin;
    for (const { id, mask } of masks) {
      const next = originMasked(maskedOrigin, mask);
      const isCommon = next !== maskedOrigin;
      maskedOrigin = next;
      masked = masked.map((line) => {
        const after = lineMasked(line, mask);
        if (isCommon || after !== line) hit(id);
        return after;
      });
    }
    return { origin: maskedOrigin, lines: masked };
  });
  return { batches: ruled.filter(({ lines }) => lines.length > 0), hits, leftOut };
}

/** What puts a mask over texts. */
export interface Mask {
  /** Where in a text it is put. */
  spans(text: string): TextSpan[];
  /** What stands in its place. */
  readonly shown: string;
  /** Whether a field of that name is masked whole. */
  isWhole(name: string): boolean;
}

/** Makes a mask ready. @example masked('by bearer 123456789', maskOf({ kind: 'token' })) // 'by bearer ‹token›' */
export function maskOf(masked: Masked): Mask {
  if (masked.kind !== 'expression') {
    const { kind } = masked;
    return {
      spans: (text) => secretsIn(kind, text),
      shown: `‹${secretNames[kind]}›`,
      isWhole: (name) => kind === 'token' && namesSecret(name)
    };
  }
  const expression = RE2JS.compile(masked.expression);
  const group = expression.groupCount() > 0 ? 1 : 0;
  return {
    spans: (text) => {
      const found = expression.matcher(text);
      const spans: TextSpan[] = [];
      // A group that took no part in a match has no place.
      while (found.find())
        if (found.end(group) > found.start(group)) spans.push([found.start(group), found.end(group)]);
      return apart(spans);
    },
    shown: '‹masked›',
    isWhole: () => false
  };
}

/** A text with a mask put over it. */
export function masked(text: string, mask: Mask): string {
  const spans = mask.spans(text);
  if (spans.length === 0) return text;
  let out = '';
  let from = 0;
  for (const [begin, end] of spans) {
    out += text.slice(from, begin) + mask.shown;
    from = end;
  }
  return out + text.slice(from);
}

function lineMasked(line: ArrivedLine, mask: Mask): ArrivedLine {
  const text = masked(line.text, mask);
  const body = line.body === undefined ? undefined : valueMasked(line.body, mask);
  const fields = fieldsMasked(line.fields, mask);
  if (text === line.text && body === line.body && fields === line.fields) return line;
  return { ...line, text, fields, ...(body === undefined ? {} : { body }) };
}

function originMasked(origin: Origin, mask: Mask): Origin {
  const resource = fieldsMasked(origin.resource, mask);
  const fields = fieldsMasked(origin.scope.fields, mask);
  if (resource === origin.resource && fields === origin.scope.fields) return origin;
  return { ...origin, resource, scope: { ...origin.scope, fields } };
}

/** The same object where nothing of it is masked. */
function fieldsMasked(fields: LogFields, mask: Mask): LogFields {
  let changed: Record<string, LogValue> | null = null;
  for (const [name, value] of Object.entries(fields)) {
    const after = value !== null && mask.isWhole(name) ? mask.shown : valueMasked(value, mask);
    if (after === value) continue;
    changed ??= { ...fields };
    // Not by assignment: a field may be called __proto__.
    Object.defineProperty(changed, name, { value: after, enumerable: true, writable: true, configurable: true });
  }
  return changed ?? fields;
}

function valueMasked(value: LogValue, mask: Mask): LogValue {
  if (typeof value === 'string') return masked(value, mask);
  if (typeof value === 'number' || typeof value === 'bigint') {
    const text = String(value);
    return mask.spans(text).length > 0 ? masked(text, mask) : value;
  }
  if (value === null || typeof value === 'boolean' || value instanceof Uint8Array) return value;
  if (Array.isArray(value)) {
    const all = value.map((one: LogValue) => valueMasked(one, mask));
    return all.some((one, index) => one !== value[index]) ? all : (value as readonly LogValue[]);
  }
  return fieldsMasked(value as LogFields, mask);
}

const searchedOf = (origin: Origin, line: ArrivedLine): SearchedLine => ({
  text: line.text,
  severity: line.severity,
  field: (name) => {
    const value = valueOfArrived(origin, line, name);
    return value === undefined ? undefined : searchable(value);
  }
});
