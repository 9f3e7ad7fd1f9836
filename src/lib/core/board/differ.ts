import { formOf } from '../words/count';
import equal from 'fast-deep-equal';
import type { Picker } from './picker';
import type { Board, Panel, Section } from './schema';

/** What became of a board from one version to another, part by part. */
export interface Difference {
  readonly of: 'board' | 'panel' | 'picker' | 'section';
  readonly kind: 'added' | 'removed' | 'changed';
  /** The title of the part, as it is now; of the board, what of it. */
  readonly title: string;
  /** What of it changed. */
  readonly fields: readonly string[];
  /** The values before and after, field by field. */
  readonly before: unknown;
  readonly after: unknown;
}

/**
 * What differs between two versions of a board.
 *
 * @example differencesOf(board, { ...board, title: 'Other' }).map(spokenDifference) // ['The title was “Tickets”, is “Other”.']
 */
export function differencesOf(before: Board, after: Board): Difference[] {
  const parts = new Set(['panels', 'pickers', 'sections']);
  const names = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter((name) => !parts.has(name));
  const value = (board: Board, name: string): unknown => (board as unknown as Record<string, unknown>)[name];
  return [
    ...names
      .filter((name) => !equal(value(before, name), value(after, name)))
      .map((name): Difference => ({
        of: 'board',
        kind: 'changed',
        title: name,
        fields: [name],
        before: value(before, name),
        after: value(after, name)
      })),
    ...partsOf<Section>('section', before.sections, after.sections, ({ id }) => id),
    ...partsOf<Picker>('picker', before.pickers, after.pickers, ({ name }) => name),
    ...partsOf<Panel>('panel', before.panels, after.panels, ({ id }) => id)
  ];
}

function partsOf<One extends { readonly title: string }>(
  of: Difference['of'],
  before: readonly One[],
  after: readonly One[],
  key: (one: One) => string
): Difference[] {
  const [was, is] = [before, after].map((all) => new Map(all.map((one) => [key(one), one]))) as [
    Map<string, One>,
    Map<string, One>
  ];
  const found: Difference[] = [];
  for (const [id, one] of is) {
    const old = was.get(id);
    if (!old) found.push({ of, kind: 'added', title: one.title, fields: [], before: null, after: one });
    else if (!equal(old, one)) {
      const fields = [...new Set([...Object.keys(old), ...Object.keys(one)])].filter(
        (name) => !equal((old as Record<string, unknown>)[name], (one as Record<string, unknown>)[name])
      );
      found.push({ of, kind: 'changed', title: one.title, fields, before: old, after: one });
    }
  }
  for (const [id, one] of was)
    if (!is.has(id)) found.push({ of, kind: 'removed', title: one.title, fields: [], before: one, after: null });
  return found;
}

/** A difference as a sentence. @example spokenDifference({ of: 'panel', kind: 'added', title: 'Memory', … }) // 'The panel “Memory” was added.' */
export function spokenDifference({ of, kind, title, fields, before, after }: Difference): string {
  if (of === 'board') {
    const described = (value: unknown) =>
      value === undefined ? 'nothing' : typeof value === 'string' ? `“${value}”` : JSON.stringify(value);
    return `The ${words[title] ?? title} was ${described(before)}, is ${described(after)}.`;
  }
  if (kind !== 'changed') return `The ${of} “${title}” was ${kind === 'added' ? 'added' : 'removed'}.`;
  const described = fields.map((field) => words[field] ?? field);
  if (described.length === 1 && fields[0] === 'place') return `The ${of} “${title}” was moved or sized.`;
  if (described.length === 1 && fields[0] === 'title')
    return `The ${of} “${(before as { title: string }).title}” is called “${title}” now.`;
  return `Of the ${of} “${title}” the ${listed(described)} ${formOf(described.length, 'was', 'were')} changed.`;
}

/** Several differences in a few words. @example summaryOf([…]) // 'Memory added, Processor moved' */
export function summaryOf(differences: readonly Difference[]): string {
  const described = differences.map(({ of, kind, title, fields }) => {
    if (of === 'board') return `${words[title] ?? title} changed`;
    if (kind === 'added') return `${title} added`;
    if (kind === 'removed') return `${title} removed`;
    return `${title} ${fields.every((field) => field === 'place' || field === 'section') ? 'moved' : 'changed'}`;
  });
  if (described.length === 0) return 'Nothing changed';
  return described.length > 3
    ? `${described.slice(0, 3).join(', ')} and ${described.length - 3} more`
    : described.join(', ');
}

const words: Readonly<Record<string, string>> = {
  about: 'description',
  step: 'step of all panels',
  zone: 'time zone',
  range: 'default range',
  refresh: 'refresh interval',
  place: 'place',
  earlier: 'comparison',
  reduce: 'figure',
  ignores: 'pickers it follows',
  usual: 'usual choice',
  several: 'number of choices'
};

const listed = (parts: readonly string[]): string =>
  parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;
