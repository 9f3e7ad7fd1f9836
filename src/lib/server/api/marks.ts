import { z } from 'zod';
import { refusalOfSchema } from '$lib/core/forms/problems';
import { idSchema } from '$lib/core/forms/id';
import { unstorableIn } from '$lib/core/forms/storable';
import { markSchema } from '$lib/core/mark';
import { Refusal } from '$lib/core/problem/problem';
import { instantFromText, range } from '$lib/core/time';
import { boardById } from '../boards/boards';
import { noSuchBoard } from '../boards/not-found';
import { permitFor, permittedBoard } from '../boards/permit';
import { admitted } from '../intake/receive/admit';
import { eventMarksIn, insertMark, markById, marksIn, removeMark } from '../marks/marks';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Marks');

const markAnswer = z.looseObject({
  text: z.string(),
  from: instant,
  to: instant.nullable(),
  by: z.string()
});

const spanSchema = z
  .strictObject({
    from: markSchema.shape.from,
    to: markSchema.shape.from,
    board: z.coerce.number().pipe(idSchema).optional(),
    services: z
      .string()
      .max(1000)
      .describe('Services, separated by commas: their marks, and events of providers on their resources.')
      .optional()
  })
  .refine(({ from, to }) => Date.parse(from) < Date.parse(to), {
    error: 'The end must be after the start.',
    path: ['to']
  });

/** A mark is small: what is larger is none, bytes. */
const mostBytes = 64 * 1024;

export const markOperations = [
  operation('GET', '/marks', {
    list: wholeList('marks', ({ from, text }: { from: number; text: string }) => [from, text]),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists marks in a range.',
    query: spanSchema,
    answer: z.object({ marks: z.array(markAnswer) }),
    handle: async ({ server: { db }, query: { from, to, board, services }, reader }) => {
      if (board !== undefined) await permittedBoard(db, reader, board, 'view');
      const span = range(instantFromText(from), instantFromText(to));
      const named = services?.split(',').filter(Boolean);
      const [marks, events] = await Promise.all([
        marksIn(db, span, { ...(board === undefined ? {} : { board }), ...(named && { services: named }) }),
        named === undefined ? [] : eventMarksIn(db, span, named)
      ]);
      return { marks: [...marks, ...events].map((mark) => ({ ...mark })) };
    }
  }),
  operation('POST', '/marks', {
    right: 'editor',
    summary: 'Adds a mark.',
    body: markSchema,
    answer: markAnswer,
    status: 201,
    handle: async ({ server: { db, clock, changes }, body, reader, author }) => {
      if (body.board !== undefined) await permittedBoard(db, reader, body.board, 'view');
      const made = await insertMark(db, body, { name: author.displayName, source: 'person' }, clock.now());
      if (made === null) throw noSuchBoard();
      changes.tell('mark', { markId: made.id, boardId: made.board });
      return { ...made };
    }
  }),
  operation('DELETE', '/marks/{id}', {
    right: 'editor',
    summary: 'Removes a mark.',
    handle: async ({ server: { db, changes }, params: { id }, reader }) => {
      const mark = await markById(db, id);
      const board = mark?.board ?? null;
      const isHidden = board !== null && (await permitFor(db, reader, board, 'view')).kind === 'no';
      if (mark === null || isHidden)
        throw new Refusal('not-found', 'There is no such mark.', 'Somebody may have removed it before.');
      await removeMark(db, id);
      changes.tell('mark', { markId: id, boardId: board });
    }
  }),
  operation('POST', '/receive/marks', {
    isAct: false,
    right: 'anybody',
    scope: 'marks',
    isRaw: true,
    summary: 'Takes a mark from a program with a key, such as one that deploys.',
    body: markSchema,
    answer: markAnswer,
    status: 201,
    handle: async ({ server, request }) => {
      const { key, body, isGzip } = await admitted(server, request, 'marks');
      const read = markSchema.safeParse(jsonOf(body, isGzip));
      if (!read.success) throw refusalOfSchema(read.error, 'The mark');
      // A key is nobody in particular: it reaches the boards of the workspace, and none that are private.
      const { board } = read.data;
      if (board !== undefined && (await boardById(server.db, board))?.sharing.reach !== 'workspace')
        throw noSuchBoard();
      const made = await insertMark(server.db, read.data, { name: key.name, source: 'program' }, server.clock.now());
      if (made === null) throw noSuchBoard();
      server.changes.tell('mark', { markId: made.id, boardId: made.board });
      return { ...made };
    }
  })
];

function jsonOf(body: Buffer, isGzip: boolean): unknown {
  const example = 'Send {"text": "…", "from": "2026-05-04T08:00:00Z"}.';
  if (isGzip || body.length > mostBytes)
    throw new Refusal('too-large', 'A mark is sent unpacked and has at most 64 kB.', example);
  let mark: unknown;
  try {
    mark = JSON.parse(body.toString('utf8'));
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    throw new Refusal('unreadable', 'The mark is not JSON.', example);
  }
  const problem = unstorableIn(mark);
  if (problem !== null)
    throw new Refusal('unreadable', `The mark cannot be stored: ${problem.path} ${problem.why}.`, 'Send it without.');
  return mark;
}
