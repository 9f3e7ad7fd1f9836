import { RE2JS, RE2JSException } from 're2js';
import { z } from 'zod';
import { isRefused } from '../../problem/problem';
import { isPartName, mostParts, readTextPattern, textExtractor } from './text-pattern';

/** Longest pattern as it is written. */
export const longestPattern = 2000;

const fieldName = z.string().refine((name) => name === '' || isPartName(name), {
  error:
    'A field is named by letters, digits, dots, _ and -, beginning with a letter; one without a name is passed over.'
});

/**
 * How fields are read from the text of lines that have none: by a pattern that names parts of it, as keys with values, as JSON, as columns, or by a regular expression (RE2) with named groups.
 *
 * @example linePatternSchema.parse({ kind: 'text', text: 'took ‹ms:number› ms' })
 */
export const linePatternSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('text'),
    text: z
      .string()
      .max(longestPattern)
      .superRefine((text, context) => {
        const problem = patternProblem(text);
        if (problem !== null) context.addIssue({ code: 'custom', message: problem });
      })
  }),
  z.strictObject({ kind: z.literal('pairs') }),
  z.strictObject({ kind: z.literal('json') }),
  z.strictObject({
    kind: z.literal('columns'),
    separator: z.string().min(1, { error: 'Say what stands between the columns.' }).max(20),
    names: z.array(fieldName).min(1).max(100)
  }),
  z.strictObject({
    kind: z.literal('expression'),
    expression: z
      .string()
      .min(1)
      .max(300)
      .superRefine((text, context) => {
        const problem = expressionProblem(text);
        if (problem !== null) context.addIssue({ code: 'custom', message: problem });
      })
  })
]);
export type LinePattern = z.infer<typeof linePatternSchema>;

function patternProblem(text: string): string | null {
  try {
    readTextPattern(text);
    return null;
  } catch (error) {
    if (!isRefused(error, 'pattern-invalid')) throw error;
    return `${error.message} ${error.remedy}`;
  }
}

function expressionProblem(text: string): string | null {
  try {
    return Object.keys(RE2JS.compile(text).namedGroups()).length > 0
      ? null
      : 'It names no group: write a part as (?P<name>…).';
  } catch (error) {
    if (error instanceof RE2JSException) return `It is no regular expression (RE2): ${error.message}.`;
    throw error;
  }
}

/** Fields that were read from a text. */
export type ExtractedFields = Readonly<Record<string, string | number | boolean>>;

/** Characters of a text in which fields are looked for. */
const longestRead = 32_768;
const mostRead = 200;

/**
 * Makes a pattern ready to be tried on texts of lines.
 *
 * @returns the fields of a text by name; null for one that does not match
 * @example fieldExtractor({ kind: 'pairs' })('fare=12 class=adult') // { fare: '12', class: 'adult' }
 */
export function fieldExtractor(pattern: LinePattern): (text: string) => ExtractedFields | null {
  const extract = extractorOf(pattern);
  return (text) => extract(text.length > longestRead ? text.slice(0, longestRead) : text);
}

function extractorOf(pattern: LinePattern): (text: string) => ExtractedFields | null {
  switch (pattern.kind) {
    case 'text':
      return textExtractor(readTextPattern(pattern.text));
    case 'pairs':
      return pairsIn;
    case 'json':
      return jsonIn;
    case 'columns':
      return columnsBy(pattern.separator, pattern.names);
    case 'expression': {
      const expression = RE2JS.compile(pattern.expression);
      const names = Object.keys(expression.namedGroups()).slice(0, mostParts);
      return (text) => {
        const matcher = expression.matcher(text);
        if (!matcher.find()) return null;
        return Object.fromEntries(
          names.flatMap((name) => [[name, matcher.group(name)] as const].filter(([, value]) => value !== null))
        ) as ExtractedFields;
      };
    }
    default:
      throw new RangeError(`fieldExtractor: no pattern "${String(pattern satisfies never)}"`);
  }
}

/** Keys with values, in quotes where they have spaces. */
function pairsIn(text: string): ExtractedFields | null {
  const fields: Record<string, string> = {};
  let found = 0;
  for (const [, name = '', quoted, bare = ''] of text.matchAll(
    /([A-Za-z][\w.-]{0,59})=(?:"((?:[^"\\]|\\.)*)"|([^\s"]*))/g
  )) {
    if (++found > mostRead) break;
    fields[name] = quoted === undefined ? bare.replace(/[,;]$/, '') : quoted.replace(/\\(.)/g, '$1');
  }
  return found === 0 ? null : fields;
}

/** A JSON object that is the text or stands in it; values within values are named by a dot. */
function jsonIn(text: string): ExtractedFields | null {
  const from = text.indexOf('{');
  const to = text.lastIndexOf('}');
  if (from < 0 || to < from) return null;
  let whole: unknown;
  try {
    whole = JSON.parse(text.slice(from, to + 1));
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
  const fields: Record<string, string | number | boolean> = {};
  let count = 0;
  const walk = (value: object, before: string, depth: number): void => {
    for (const [name, one] of Object.entries(value) as [string, unknown][]) {
      if (count >= mostRead) return;
      const path = `${before}${name}`;
      if (typeof one === 'string' || typeof one === 'number' || typeof one === 'boolean') {
        fields[path] = one;
        count++;
      } else if (typeof one === 'object' && one !== null && !Array.isArray(one) && depth < 8)
        walk(one, `${path}.`, depth + 1);
    }
  };
  walk(whole as object, '', 0);
  return fields;
}

/** Columns between separators; a run of spaces is one separator. */
function columnsBy(separator: string, names: readonly string[]): (text: string) => ExtractedFields | null {
  const isSpace = separator.trim() === '';
  return (text) => {
    const cells = isSpace ? text.trim().split(/\s+/) : text.split(separator, names.length + 1);
    if (cells.length < names.length) return null;
    return Object.fromEntries(
      names.flatMap((name, index) => (name === '' ? [] : [[name, (cells[index] ?? '').trim()]]))
    );
  };
}

/** Names of the fields that a pattern is known to give; empty where the lines decide it. @example patternFields({ kind: 'pairs' }) // [] */
export function patternFields(pattern: LinePattern): string[] {
  if (pattern.kind === 'text')
    return readTextPattern(pattern.text).flatMap((piece) =>
      piece.kind === 'part' && piece.name !== '' ? [piece.name] : []
    );
  if (pattern.kind === 'columns') return pattern.names.filter((name) => name !== '');
  return pattern.kind === 'expression' ? Object.keys(RE2JS.compile(pattern.expression).namedGroups()) : [];
}
