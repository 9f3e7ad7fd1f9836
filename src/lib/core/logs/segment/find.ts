import { RE2JS } from 're2js';
import { isNumeral } from '../search/read';
import { matcherOf, wordFinder, type FieldValue } from '../search/match';
import { simplify, type SearchLeaf } from '../search/simplify';
import { fieldsIn, type Search } from '../search/tree';
import { wordsIn } from '../search/words';
import type { LogFields, LogValue } from '../line';
import { mostSeverity } from '../severity';
import { isOwnField, searchable, shapeAge, type StreamContext } from '../searched';
import { mayHave } from './filter';
import { readField } from './fields';
import { ranksOf, type SegmentHead } from './head';
import { columnIn, partOf, restPart } from './parts';
import { readRest } from './rest';
import type { SegmentSummary } from './summary';
import { readTexts } from './texts';

/** How a segment is searched: for each of its groups, what is left to look at. */
export interface SegmentPlan {
  /** By group: false for one that has nothing, true for one of which every line is found. */
  readonly groups: readonly (Search | boolean)[];
  /** Parts that must be there to look. */
  readonly parts: readonly number[];
}

/**
 * What of a segment must be read to search it, by its summary alone.
 *
 * @returns null when it surely has nothing
 */
export function planSegment(search: Search, summary: SegmentSummary, context: StreamContext): SegmentPlan | null {
  const left = simplify(search, (leaf) => ofSegment(leaf, summary, context));
  if (left === false) return null;
  const groups = summary.groups.map((group) => {
    if (left === true) return true;
    const words = stillWords(group);
    return simplify(left, (leaf) => {
      if (leaf.kind === 'words') return ofGroup(leaf, words, group.filter);
      if (leaf.kind === 'matches' && leaf.field === 'text' && group.pieces?.length === 1)
        return RE2JS.compile(leaf.pattern)
          .matcher(group.pieces[0] ?? '')
          .find();
      if (leaf.kind === 'compare' && leaf.field === 'shape') {
        const matcher = matcherOf(leaf);
        if (group.shape !== null) return matcher.matches(only('shape', group.shape));
        const found = group.several.filter(([shape]) => matcher.matches(only('shape', shape)));
        return found.length === 0 ? false : found.length === group.several.length ? true : null;
      }
      return null;
    });
  });
  if (groups.every((group) => group === false)) return null;
  const parts = new Set<number>();
  for (const [index, group] of groups.entries()) {
    if (typeof group === 'boolean') continue;
    if (needsText(group)) parts.add(partOf(summary.groups[index]?.part ?? 0));
    for (const name of fieldsIn(group)) for (const part of partsOfField(summary, name)) parts.add(part);
  }
  return { groups, parts: [...parts].sort((a, b) => a - b) };
}

const only = (name: string, value: FieldValue) => ({
  text: '',
  severity: 0,
  field: (asked: string) => (asked === name ? value : undefined)
});

/** Whether finding lines needs their texts. */
const needsText = (search: Search): boolean => {
  if (search.kind === 'not') return needsText(search.of);
  if (search.kind === 'all' || search.kind === 'any') return search.parts.some(needsText);
  return search.kind === 'words' || search.field === 'text';
};

function ofSegment(leaf: SearchLeaf, summary: SegmentSummary, context: StreamContext): boolean | null {
  if (leaf.kind === 'words') return null;
  const { field } = leaf;
  if (field === 'service' || field === 'account' || field === 'stream')
    return matcherOf(leaf).matches(only(field, context[field]));
  if (field === 'severity') {
    const matcher = matcherOf(leaf);
    const none = () => undefined;
    const held = summary.severities.flatMap((count, severity) =>
      count === 0 ? [] : matcher.matches({ text: '', severity, field: none })
    );
    return held.every(Boolean) ? true : held.some(Boolean) ? null : false;
  }
  if (field === 'trace' && leaf.kind === 'compare' && leaf.operator === '=' && !leaf.value.includes('*'))
    return mayHave(summary.traces, leaf.value.toLowerCase()) ? null : false;
  if (isOwnField(field)) return null;
  return ofField(leaf, summary);
}

/** Whether what is looked for in a field can be there at all. */
function ofField(leaf: Exclude<SearchLeaf, { kind: 'words' }>, summary: SegmentSummary): boolean | null {
  const { field: name } = leaf;
  if (summary.origins.some(({ resource, scope }) => Object.hasOwn(resource, name) || Object.hasOwn(scope.fields, name)))
    return null;
  const column = summary.fields.find((field) => field.name === name);
  if (column === undefined) return summary.fields.some((field) => field.name === '') ? null : false;
  if (leaf.kind === 'has') return column.lines === summary.lines ? true : null;
  if (leaf.kind !== 'compare' || leaf.operator !== '=' || (!leaf.quoted && leaf.value.includes('*'))) return null;
  const small = leaf.value.toLowerCase();
  const wanted = !leaf.quoted && isNumeral(leaf.value) ? [small, String(Number(leaf.value))] : [small];
  const isThere = (text: string): boolean =>
    column.values === null ? mayHave(column.filter, text) : column.values.includes(text);
  return wanted.some(isThere) ? null : false;
}

type Runs = readonly ReturnType<typeof wordsIn>[];

/** Of summaries that are kept, every search asks for the same. */
const knownWords = new WeakMap<object, Runs>();

/** Words that stand in every line of a group, in runs between the places where its lines differ; null for lines that stand as they are. */
function stillWords({ pieces }: Pick<SegmentSummary['groups'][number], 'pieces'>): Runs | null {
  if (pieces === null) return null;
  const known = knownWords.get(pieces);
  if (known !== undefined) return known;
  const runs = pieces.flatMap((piece) => (piece === null ? [] : [wordsIn(piece)]));
  knownWords.set(pieces, runs);
  return runs;
}

function ofGroup(leaf: Extract<SearchLeaf, { kind: 'words' }>, runs: Runs | null, filter: Uint8Array): boolean | null {
  const find = wordFinder(leaf);
  if (runs?.some((run) => find(run).length > 0)) return true;
  const differs = runs === null || filter.length > 0;
  for (const { word } of wordsIn(leaf.text, !leaf.quoted)) {
    if (word.includes('*') && differs) continue;
    const one = wordFinder({ ...leaf, text: word });
    if (!runs?.some((run) => one(run).length > 0) && !mayHave(filter, word)) return false;
  }
  return differs ? null : false;
}

/**
 * Lines of a segment that a plan finds, the earliest first.
 *
 * @param parts by their numbers, those of the plan among them
 * @param from and `to`: lines from one number to before another are looked at
 */
export function findLines(
  { groups }: SegmentPlan,
  summary: SegmentSummary,
  context: StreamContext,
  head: SegmentHead,
  parts: ReadonlyMap<number, Uint8Array>,
  from = 0,
  to = summary.lines
): number[] {
  const found: number[] = [];
  if (groups.every((group) => group === true)) {
    for (let line = from; line < to; line++) found.push(line);
    return found;
  }
  // All groups read the same texts and fields.
  const texts = groups.some((group) => typeof group !== 'boolean' && needsText(group))
    ? textsOf(summary, head, parts)
    : null;
  const fieldOf = fieldReader(summary, context, head, parts);
  const looks = groups.map((group) => (typeof group === 'boolean' ? group : lookAt(group, head, texts, fieldOf)));
  const { group: groupOf } = head;
  for (let line = from; line < to; line++) {
    const look = looks[groupOf[line] ?? 0];
    if (look === true || (typeof look === 'function' && look(line))) found.push(line);
  }
  return found;
}

type Parts = ReadonlyMap<number, Uint8Array>;

function lookAt(
  search: Search,
  { severity }: SegmentHead,
  texts: ReturnType<typeof textsOf> | null,
  fieldOf: ReturnType<typeof fieldReader>
): (line: number) => boolean {
  const matcher = matcherOf(search);
  if (!needsText(search) && fieldsIn(search).every((name) => name === 'severity')) {
    // There are few severities: each is tried once.
    const holds = Array.from({ length: mostSeverity + 1 }, (_, one) =>
      matcher.matches({ text: '', severity: one, field: () => undefined })
    );
    return (line) => holds[severity[line] ?? 0] === true;
  }
  return (line) =>
    matcher.matches({
      text: texts?.(line).text ?? '',
      severity: severity[line] ?? 0,
      field: (name) => fieldOf(name, line)
    });
}

/** Parts that must be there to read a field of lines. */
export function partsOfField({ fields }: SegmentSummary, name: string): number[] {
  if (name === 'trace' || name === 'span' || name === 'event') return [restPart];
  if (isOwnField(name)) return [];
  return fields.filter((field) => field.name === name || field.name === '').map(({ part }) => partOf(part));
}

/**
 * Reads fields of a segment's lines, also what Bussola knows of them.
 *
 * @param parts by their numbers, those of {@link partsOfField} among them
 */
export function fieldReader(
  summary: SegmentSummary,
  context: StreamContext,
  head: SegmentHead,
  parts: Parts
): (name: string, line: number) => FieldValue | undefined {
  const columns = columnsOf(summary, parts);
  let ranks: Uint32Array | null = null;
  const shapeOf = (line: number): number | undefined => {
    ranks ??= ranksOf(head.group);
    return summary.groups[head.group[line] ?? 0]?.shape ?? head.alone[ranks[line] ?? 0];
  };
  const ownOf = (name: string, line: number): FieldValue | undefined => {
    if (name === 'service' || name === 'account' || name === 'stream') return context[name];
    if (name === 'resource') {
      const id = head.resource[line] ?? 0; // 0 for none
      return id === 0 ? undefined : context.resourceName(id);
    }
    if (name === 'shape') return shapeOf(line);
    if (name === 'shape.age') return shapeAge(context, shapeOf(line) ?? 0, head.at[line] ?? 0);
    return columns.rest(name, line, head);
  };
  return (name, line) => {
    if (isOwnField(name)) return ownOf(name, line);
    const own = columns.field(name, line); // which may be null
    const value = own === undefined ? originField(summary, head.origin[line] ?? 0, name) : own;
    return value === undefined ? undefined : searchable(value);
  };
}

function originField({ origins }: SegmentSummary, place: number, name: string): LogValue | undefined {
  const origin = origins[place];
  if (origin === undefined) return undefined;
  if (Object.hasOwn(origin.scope.fields, name)) return origin.scope.fields[name];
  return Object.hasOwn(origin.resource, name) ? origin.resource[name] : undefined;
}

function partAt(parts: Parts, place: number): Uint8Array {
  const part = parts.get(partOf(place));
  if (part === undefined) throw new RangeError(`segment: part ${partOf(place)} is missing`);
  return part;
}

export function textsOf(summary: SegmentSummary, head: SegmentHead, parts: Parts) {
  const ranks = ranksOf(head.group);
  const read = new Map<number, ReturnType<typeof readTexts>>();
  return (line: number): { readonly text: string; readonly shape: number } => {
    const number = head.group[line] ?? 0;
    let texts = read.get(number);
    if (texts === undefined) {
      const group = summary.groups[number];
      if (group === undefined) throw new RangeError('segment: a line of no group');
      read.set(number, (texts = readTexts(group, columnIn(partAt(parts, group.part), group.part))));
    }
    const rank = ranks[line] ?? 0;
    return { text: texts[rank] ?? '', shape: summary.groups[number]?.shape ?? head.alone[rank] ?? 0 };
  };
}

function columnsOf(summary: SegmentSummary, parts: Parts) {
  const read = new Map<string, ReadonlyMap<number, LogValue>>();
  const column = (name: string): ReadonlyMap<number, LogValue> => {
    let values = read.get(name);
    if (values === undefined) {
      const field = summary.fields.find((one) => one.name === name);
      values = field === undefined ? new Map() : readField(field, partAt(parts, field.part), summary.lines);
      read.set(name, values);
    }
    return values;
  };
  let rest: ReturnType<typeof readRest> | null = null;
  return {
    field: (name: string, line: number): LogValue | undefined => {
      const own = column(name);
      if (own.has(line)) return own.get(line);
      const left = column('').get(line) as LogFields | undefined;
      return left !== undefined && Object.hasOwn(left, name) ? left[name] : undefined;
    },
    rest: (name: string, line: number, head: SegmentHead): string | undefined => {
      rest ??= readRest(parts.get(restPart) ?? new Uint8Array(0), head.at);
      const one = rest[line];
      const value = name === 'trace' ? one?.trace : name === 'span' ? one?.span : one?.event;
      return value === '' ? undefined : value;
    }
  };
}
