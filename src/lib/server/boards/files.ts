import { Refusal } from '$lib/core/problem/problem';
import { z } from 'zod';
import {
  boardOf,
  differencesOf,
  mappedBoard,
  namesIn,
  spokenDifference,
  type Board,
  type Reader
} from '$lib/core/board';
import { longestFile, type FileProblem } from '$lib/core/forms/file';
import { idSchema } from '$lib/core/forms/id';
import { asksFor } from '$lib/core/signal';
import type { Queryable } from '../db/pool';
import { allGroups } from '../query/groups/groups';
import { metricNames } from '../inventory/metrics';
import { valuesOfLabel } from '../inventory/labels';
import type { ParserPool } from '../parsing/parser-pool';
import type { Context } from '../db/context';

interface FileContext extends Context {
  readonly parsers: ParserPool;
}
import { insertBoard, type Author, type StoredBoard } from './boards';
import { saveBoard, unlessTaken } from './save-board';
import { boardsFor } from './permit';

const name = z.string().min(1).max(200);
const names = z.record(name, name);

/** Body of `POST /api/v1/boards/plan` and `…/apply`: the text of a file, what takes the place of what here, and the board that it is to become. */
export const fileSchema = z.strictObject({
  /** One that is too long to be a board is reported by the plan. */
  text: z.string(),
  mapping: z
    .strictObject({ labels: names.optional(), values: z.record(name, names).optional(), metrics: names.optional() })
    .default({}),
  /** The board to change; a new one by default, or the one of the same title where `match` says so. */
  into: idSchema.optional(),
  match: z.boolean().default(false)
});
export type FileAsked = z.infer<typeof fileSchema>;

/** Bytes of a request with a file: the longest one as JSON writes it, and what says what it is for. */
export const mostFileBytes = 2 * longestFile + 1024 * 1024;

/** Something that a file names and that is not here, with what could take its place. */
export interface Unknown {
  /** A metric, or a value of a label. */
  readonly of: 'metric' | 'value';
  /** The label of a value; empty for a metric. */
  readonly label: string;
  readonly name: string;
  readonly candidates: readonly string[];
}

/** What applying a file would do. */
export interface FilePlan {
  readonly kind: 'plan';
  readonly board: Board;
  /** The board that would change; null when a new one would be made. */
  readonly into: { readonly id: number; readonly title: string; readonly version: number } | null;
  readonly differences: readonly string[];
  readonly unknown: readonly Unknown[];
}
export type Planned = FilePlan | { readonly kind: 'unreadable'; readonly problems: readonly FileProblem[] };

/** Things that are offered in the place of what is not here. */
const mostCandidates = 200;

/**
 * Says what applying a file would do, and what of it is not here; nothing is changed.
 *
 * @throws Refusal when the board to change is not there or may not be changed by the person; ReadingFault when parsers the file takes too much
 */
export async function planFile(
  { db, parsers }: Pick<FileContext, 'db' | 'parsers'>,
  person: Reader | null,
  { text, mapping, into, match }: FileAsked
): Promise<FilePlan> {
  const read = await parsers.boardFile(text);
  if (read.kind === 'unreadable')
    throw new Refusal('unreadable', 'The file cannot be read as a board.', 'Correct it at the places that are named.', {
      problems: read.problems
    });
  const board = mappedBoard(read.board, mapping);
  const target = await targetOf(db, person, board, into, match);
  const known = target === null ? emptyBoard(board) : boardOf(target);
  return {
    kind: 'plan',
    board,
    into: target && { id: target.id, title: target.title, version: target.version },
    differences: differencesOf(known, board).map(spokenDifference),
    unknown: await unknownIn(db, board)
  };
}

/**
 * Does what {@link planFile} says.
 *
 * @throws Refusal as it does, and when somebody changes the board at the same moment
 */
export async function applyFile(
  context: FileContext,
  person: Reader | null,
  asked: FileAsked,
  by: Author
): Promise<FilePlan & { readonly kept: StoredBoard }> {
  const plan = await planFile(context, person, asked);
  const { board, into } = plan;
  if (into === null) {
    const { db, clock } = context;
    return { ...plan, kept: await unlessTaken(board.title, () => insertBoard(db, board, by, clock.now())) };
  }
  return { ...plan, kept: await saveBoard(context, into.id, { ...board, version: into.version }, by) };
}

async function targetOf(
  db: Queryable,
  person: Reader | null,
  board: Board,
  into: number | undefined,
  match: boolean
): Promise<StoredBoard | null> {
  if (into === undefined && !match) return null;
  const boards = await boardsFor(db, person);
  const found = boards.find(({ board: { id, title } }) => (into === undefined ? title === board.title : id === into));
  if (found?.may === 'edit') return found.board;
  if (found)
    throw new Refusal(
      'not-allowed',
      `You may not change the board ${found.board.title}.`,
      'Give the board in the file another title, or ask for the right to edit.'
    );
  if (into !== undefined) throw new Refusal('not-found', 'There is no such board.', 'Apply the file as a new board.');
  return null;
}

const emptyBoard = ({ title }: Board): Board => ({ title, pickers: [], sections: [], panels: [] });

async function unknownIn(db: Queryable, board: Board): Promise<Unknown[]> {
  const named = namesIn(board);
  const [metrics, groups] = await Promise.all([metricNames(db), allGroups(db)]);
  const found: Unknown[] = named.metrics
    .filter((metric) => !metrics.some((known) => asksFor(metric, known)))
    .map((metric) => ({ of: 'metric', label: '', name: metric, candidates: metrics.slice(0, mostCandidates) }));
  for (const [label, values] of Object.entries(named.values)) {
    if (values.length === 0) continue;
    const known = label === 'group' ? groups.map((group) => group.name) : await valuesOfLabel(db, label, named.metrics);
    for (const value of values)
      if (!known.includes(value))
        found.push({ of: 'value', label, name: value, candidates: known.slice(0, mostCandidates) });
  }
  return found;
}
