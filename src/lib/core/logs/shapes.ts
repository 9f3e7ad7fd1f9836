/** What stands in a shape where lines of it differ. */
export const differs = '‹…›';

/** What lines have in common when their variable parts are left out. */
export interface Shape {
  readonly id: number;
  /** Its words, with {@link differs} or a kind such as `‹number›` where lines differ. */
  readonly words: readonly string[];
  /** How many lines it has had. */
  readonly count: number;
}

export interface ShapeOptions {
  /** Share of the words of a shape that it still says, 0 to 1, in which a line must agree with it to be of it. */
  readonly alike: number;
  /** Shapes that are told apart; further lines are of one shape by their number of words. */
  readonly most: number;
}
const usual: ShapeOptions = { alike: 0.5, most: 2000 };

/** Words of a line that are looked at; the others are not compared. */
export const mostShapeWords = 60;
/** Longest word that may be variable by its looks, characters: trying a pattern on a longer one could take long. */
const longestVariable = 100;
/** Different beginnings that are followed from one place of the tree; further ones go together. */
const mostBranches = 100;

/** What is variable by its looks, the more particular first. */
const kinds: readonly (readonly [RegExp, string])[] = [
  [/^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i, '‹id›'],
  [/^\d{4}-\d\d-\d\d(?:[T_]\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?(?:Z|[+-]\d\d:?\d\d)?)?$/, '‹time›'],
  [/^\d\d?:\d\d(?::\d\d(?:[.,]\d+)?)?$/, '‹time›'],
  [/^(?:\d{1,3}\.){3}\d{1,3}(?::\d+)?(?:\/\d+)?$/, '‹address›'],
  [/^[^\s@]+@[^\s@]+\.[^\s@]+$/, '‹address›'],
  [/^[+-]?\d+(?:[.,]\d+)*(?:[kmgt]i?b|b|bytes?)$/i, '‹size›'],
  [/^[+-]?\d+(?:[.,]\d+)*(?:ns|us|µs|ms|s|min|h|d)$/, '‹duration›'],
  [/^[+-]?\d+(?:[.,]\d+)*%?$/, '‹number›'],
  [/^0x[0-9a-f]+$/i, '‹id›'],
  [/^(?=[0-9a-f]*\d)(?=\d*[a-f])[0-9a-f]{8,}$/i, '‹id›']
];
/** Without one of these, no word looks variable. */
const mayVary = /[\d@]/;
const sizeUnit = /^(?:[kmgt]i?b|bytes?)$/i;
const durationUnit = /^(?:ns|us|µs|ms|s|min|h|d|seconds?|minutes?|hours?|days?)$/;

/**
 * The words of a line as shapes compare them: what is variable by its looks is a kind.
 *
 * @example shapeWords('cannot allocate 64 MiB for vessel=12') // ['cannot', 'allocate', '‹size›', 'for', 'vessel', '=', '‹number›']
 */
export function shapeWords(text: string): string[] {
  const words: string[] = [];
  for (const [piece] of text.slice(0, 4000).matchAll(/[^\s=()[\]{}"',;|]+|[=()[\]{}"',;|]/g)) {
    if (words.length === mostShapeWords) break;
    if (piece.length > longestVariable) {
      words.push(piece);
      continue;
    }
    // A mark at the end of a word belongs to the sentence, not to the word.
    const [, bare = piece, mark = ''] = /^(.+?)([:.!?]+)$/.exec(piece) ?? [];
    const last = words.at(-1);
    if (last === '‹number›' && sizeUnit.test(bare)) words[words.length - 1] = '‹size›';
    else if (last === '‹number›' && durationUnit.test(bare)) words[words.length - 1] = '‹duration›';
    else if (!mayVary.test(bare)) words.push(bare);
    else words.push(kinds.find(([looks]) => looks.test(bare))?.[1] ?? bare);
    if (mark !== '' && words.length < mostShapeWords) words.push(mark);
  }
  return words;
}

interface Group {
  id: number;
  words: string[];
  count: number;
}
type Branch = Map<string, Group[]>;

/**
 * Finds the shapes of lines as they arrive, each looked at once: a tree of fixed depth leads by the number of words and the first of them to a few shapes, of which the one that agrees most takes the line, where it agrees
 * enough; words in which they differ are left out of it from then on.
 *
 * Source: Drain, He, Zhu, Zheng and Lyu, "Drain: An Online Log Parsing Approach with Fixed Depth Tree", ICWS 2017.
 *
 * @example new Shapes().add('container seatmap-2 ended with 137').id // 1
 */
export class Shapes {
  readonly #options: ShapeOptions;
  /** By the number of words, then by the first of them. */
  readonly #tree = new Map<number, Branch>();
  readonly #byId = new Map<number, Group>();
  #next = 1;

  /** @param known shapes that were found before, with which it goes on */
  constructor(options: Partial<ShapeOptions> = {}, known: readonly Shape[] = []) {
    this.#options = { ...usual, ...options };
    for (const shape of known.toSorted((a, b) => a.id - b.id)) {
      const group = { ...shape, words: [...shape.words] };
      this.#groupsFor(group.words).push(group);
      this.#byId.set(group.id, group);
      this.#next = group.id + 1;
    }
  }

  /** Shapes found so far, the first found first. */
  get all(): Shape[] {
    return [...this.#byId.values()].map((group) => ({ ...group, words: [...group.words] }));
  }

  /** A shape by its id; null for one that there is not. */
  get(id: number): Shape | null {
    const group = this.#byId.get(id);
    return group === undefined ? null : { ...group, words: [...group.words] };
  }

  /** Takes a line. @returns its shape, and whether it is the first line of it */
  add(text: string): { readonly id: number; readonly isNew: boolean } {
    const words = shapeWords(text);
    const groups = this.#groupsFor(words);
    const found = this.#mostAlike(groups, words);
    if (found !== null) {
      found.words.forEach((word, index) => {
        if (word !== words[index]) found.words[index] = differs;
      });
      found.count++;
      return { id: found.id, isNew: false };
    }
    if (this.#byId.size >= this.#options.most) return this.#addOther(words.length);
    const made = this.#make(words);
    groups.push(made);
    return { id: made.id, isNew: true };
  }

  #groupsFor(words: readonly string[]): Group[] {
    let branch = this.#tree.get(words.length);
    if (branch === undefined) this.#tree.set(words.length, (branch = new Map<string, Group[]>()));
    const first = words[0] ?? '';
    // What begins with something variable says nothing about its shape there.
    const isVariable = first.startsWith('‹') || /\d/.test(first);
    const key = isVariable || (!branch.has(first) && branch.size >= mostBranches) ? differs : first;
    let groups = branch.get(key);
    if (groups === undefined) branch.set(key, (groups = []));
    return groups;
  }

  #mostAlike(groups: readonly Group[], words: readonly string[]): Group | null {
    let best: Group | null = null;
    let most = -1;
    for (const group of groups) {
      let agree = 0;
      let known = 0;
      group.words.forEach((word, index) => {
        if (word === differs) return;
        known++;
        if (word === words[index]) agree++;
      });
      // Of what the shape still says enough must agree; of two, the one that says more.
      if (agree >= known * this.#options.alike && agree > most) {
        most = agree;
        best = group;
      }
    }
    return best;
  }

  /** Where there are too many shapes: one for all further lines of as many words. */
  #addOther(length: number): { readonly id: number; readonly isNew: boolean } {
    const groups = this.#tree.get(length)?.get(differs) ?? [];
    const other = groups.find(({ words }) => words.every((word) => word === differs));
    if (other !== undefined) {
      other.count++;
      return { id: other.id, isNew: false };
    }
    const made = this.#make(Array.from({ length }, () => differs));
    groups.push(made);
    this.#tree.get(length)?.set(differs, groups);
    return { id: made.id, isNew: true };
  }

  #make(words: readonly string[]): Group {
    const made = { id: this.#next++, words: [...words], count: 1 };
    this.#byId.set(made.id, made);
    return made;
  }
}
