import equal from 'fast-deep-equal';
import { settled } from './grid-area';
import type { Picker } from './picker';
import type { Board, Panel, Section } from './schema';

/** Something that two people changed differently: theirs stands, mine is kept here. */
export interface Conflict {
  /** What it is: `title`, or a panel, picker or section by id. */
  readonly of: 'board' | 'panel' | 'picker' | 'section';
  readonly id: string;
  /** Its title, as people know it. */
  readonly title: string;
  /** What of it, such as `title` or `place`; null when one took away what the other changed. */
  readonly field: string | null;
  readonly mine: unknown;
  readonly theirs: unknown;
}

export interface Merged {
  readonly board: Board;
  readonly conflicts: readonly Conflict[];
}

/**
 * Brings two changes of one board together, field by field: what one changed is taken, what both changed alike too. Where both changed a field differently, theirs
 * stands and mine is told. What one took away and the other changed stays. What each added stays beside what the other did, also where both gave it the same id.
 * Panels that would cover each other move down.
 *
 * @param base the board that both began from
 * @param added the board as I changed it
 * cost: O(panels)
 * @example mergeBoards(base, { ...base, title: 'Mine' }, base).board.title // 'Mine'
 */
export function mergeBoards(base: Board, added: Board, theirs: Board): Merged {
  const mine = apart(base, added, theirs);
  const conflicts: Conflict[] = [];
  const list = <One extends object>(
    of: Conflict['of'],
    key: (one: One) => string,
    pick: (board: Board) => readonly One[]
  ) => mergeLists(of, key, pick(base), pick(mine), pick(theirs), conflicts);
  const panels = list<Panel>(
    'panel',
    ({ id }) => id,
    (board) => board.panels
  );
  const pickers = list<Picker>(
    'picker',
    ({ name }) => name,
    (board) => board.pickers
  );
  const sections = list<Section>(
    'section',
    ({ id }) => id,
    (board) => board.sections
  );
  const known = new Set(sections.map(({ id }) => id));
  const parts = new Set(['panels', 'pickers', 'sections']);
  const own = (board: Board) => Object.fromEntries(Object.entries(board).filter(([name]) => !parts.has(name)));
  const rest = mergeFields('board', '', own(base), own(mine), own(theirs), conflicts);
  const board = {
    ...rest,
    pickers,
    sections,
    panels: settled(
      panels.map((panel) => (panel.section !== undefined && !known.has(panel.section) ? unsectioned(panel) : panel))
    )
  } as Board;
  return { board, conflicts };
}

/** My board, where what I added has no id that something else of theirs got meanwhile. */
function apart(base: Board, mine: Board, theirs: Board): Board {
  const renamed = <One extends object>(
    key: keyof One & string,
    [inBase, inMine, inTheirs]: readonly [readonly One[], readonly One[], readonly One[]]
  ): Map<string, string> => {
    const id = (one: One) => one[key] as string;
    const taken = new Set([...inBase, ...inMine, ...inTheirs].map(id));
    const names = new Map<string, string>();
    for (const one of inMine) {
      const other = inTheirs.find((their) => id(their) === id(one));
      if (!other || inBase.some((known) => id(known) === id(one)) || equal(one, other)) continue;
      const name = freeName(id(one), taken);
      taken.add(name);
      names.set(id(one), name);
    }
    return names;
  };
  const panels = renamed<Panel>('id', [base.panels, mine.panels, theirs.panels]);
  const sections = renamed<Section>('id', [base.sections, mine.sections, theirs.sections]);
  const pickers = renamed<Picker>('name', [base.pickers, mine.pickers, theirs.pickers]);
  if (panels.size + sections.size + pickers.size === 0) return mine;
  const name = (of: ReadonlyMap<string, string>, one: string) => of.get(one) ?? one;
  return {
    ...mine,
    pickers: mine.pickers.map((picker) => ({ ...picker, name: name(pickers, picker.name) })),
    sections: mine.sections.map((section) => ({ ...section, id: name(sections, section.id) })),
    panels: mine.panels.map((panel) => ({
      ...panel,
      id: name(panels, panel.id),
      ...(panel.section === undefined ? {} : { section: name(sections, panel.section) }),
      ...(panel.ignores === undefined ? {} : { ignores: panel.ignores.map((one) => name(pickers, one)) })
    }))
  };
}

/** A name like another that is not taken. @example freeName('p3', new Set(['p3'])) // 'p3-2' */
function freeName(like: string, taken: ReadonlySet<string>): string {
  let number = 2;
  while (taken.has(`${like.slice(0, 34)}-${number}`)) number++;
  return `${like.slice(0, 34)}-${number}`;
}

const unsectioned = ({ section: _, ...panel }: Panel): Panel => panel;

function mergeLists<One extends object>(
  of: Conflict['of'],
  key: (one: One) => string,
  base: readonly One[],
  mine: readonly One[],
  theirs: readonly One[],
  conflicts: Conflict[]
): One[] {
  const byKey = (all: readonly One[]) => new Map(all.map((one) => [key(one), one]));
  const [inBase, inMine, inTheirs] = [byKey(base), byKey(mine), byKey(theirs)];
  const merged = new Map<string, One>();
  for (const id of new Set([...inTheirs.keys(), ...inMine.keys()])) {
    const [b, m, t] = [inBase.get(id), inMine.get(id), inTheirs.get(id)];
    if (m && t)
      merged.set(id, b ? (mergeFields(of, id, b, m, t, conflicts) as One) : t); // added by both, alike
    else if (m && (!b || !equal(m, b))) {
      merged.set(id, m); // added by me, or changed by me and taken away by them
      if (b) conflicts.push({ of, id, title: titleOf(m), field: null, mine: m, theirs: null });
    } else if (t && (!b || !equal(t, b))) merged.set(id, t);
  }
  return inOrderOf(key, base, mine, theirs, merged);
}

/** My order when only I changed it, else theirs; what the other one has besides stands behind what it stood behind there, and behind what the first added in that place. */
function inOrderOf<One>(
  key: (one: One) => string,
  base: readonly One[],
  mine: readonly One[],
  theirs: readonly One[],
  merged: ReadonlyMap<string, One>
): One[] {
  const keys = (all: readonly One[]) => all.map(key);
  const inAll = (all: readonly One[]) =>
    keys(all).filter((id) => [base, mine, theirs].every((one) => keys(one).includes(id)));
  const moved = (all: readonly One[]) => !equal(inAll(all), inAll(base));
  const isMine = equal(keys(theirs), keys(base)) || (moved(mine) && !moved(theirs) && !equal(keys(mine), keys(base)));
  const [first, second] = isMine ? [keys(mine), keys(theirs)] : [keys(theirs), keys(mine)];
  return woven(first, second).flatMap((id) => {
    const one = merged.get(id);
    return one === undefined ? [] : [one];
  });
}

/** All of two lists, in the order of the first. @example woven(['a', 'b'], ['a', 'x', 'b']) // ['a', 'x', 'b'] */
function woven(first: readonly string[], second: readonly string[]): string[] {
  const all = [...first];
  for (const [place, id] of second.entries()) {
    if (all.includes(id)) continue;
    const before = second[place - 1];
    let at = before === undefined ? 0 : all.indexOf(before) + 1;
    while (at < all.length && !second.includes(all[at] as string)) at++;
    all.splice(at, 0, id);
  }
  return all;
}

function mergeFields(
  of: Conflict['of'],
  id: string,
  base: object,
  mine: object,
  theirs: object,
  conflicts: Conflict[]
): object {
  const value = (of: object, name: string): unknown => (of as Record<string, unknown>)[name];
  // Another picture has other fields: it is taken or left as a whole.
  if (value(mine, 'picture') !== value(theirs, 'picture')) {
    const whole = (one: object) => equal(without(one, 'place'), without(base, 'place'));
    if (whole(theirs)) return { ...mine, place: placeOf(base, mine, theirs) };
    if (whole(mine)) return { ...theirs, place: placeOf(base, mine, theirs) };
    conflicts.push({ of, id, title: titleOf(mine), field: 'picture', mine, theirs });
    return theirs;
  }
  const merged: Record<string, unknown> = {};
  for (const name of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
    const [b, m, t] = [value(base, name), value(mine, name), value(theirs, name)];
    const iChanged = !equal(m, b);
    const chosen = iChanged && equal(t, b) ? m : t;
    if (iChanged && !equal(t, b) && !equal(m, t))
      conflicts.push({ of, id, title: titleOf(theirs), field: name, mine: m, theirs: t });
    if (chosen !== undefined) merged[name] = chosen;
  }
  return merged;
}

const without = (one: object, name: string): object =>
  Object.fromEntries(Object.entries(one).filter(([key]) => key !== name));

const placeOf = (base: object, mine: object, theirs: object): unknown => {
  const place = (one: object): unknown => (one as { place?: unknown }).place;
  return equal(place(theirs), place(base)) ? place(mine) : place(theirs);
};

const titleOf = (one: object): string => ('title' in one && typeof one.title === 'string' ? one.title : '');
