import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { problemsOf } from '$lib/core/forms/problems';
import { markSchema } from '$lib/core/mark';
import { instantFromText, range } from '$lib/core/time';
import { asked } from '$server/http/asked';
import { noSuchBoard } from '$server/boards/missing';
import { permitFor } from '$server/boards/permit';
import type { Queryable } from '$server/db/pool';
import { eventMarksIn, insertMark, marksIn } from '$server/marks/marks';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const spanSchema = z
  .strictObject({
    from: markSchema.shape.from,
    to: markSchema.shape.from,
    board: z.coerce.number().pipe(idSchema).optional(),
    /** Services, parted by commas: their marks, and what providers told of their resources. */
    services: z
      .string()
      .max(1000)
      .transform((text) => text.split(',').filter(Boolean))
      .optional()
  })
  .refine(({ from, to }) => Date.parse(from) < Date.parse(to), {
    error: 'The end must be after the start.',
    path: ['to']
  });

/** Marks of a range: `?from=&to=&board=&services=` in, `{ marks }` out. */
export const GET: RequestHandler = async ({ url, locals }) => {
  const read = spanSchema.safeParse(Object.fromEntries(url.searchParams));
  if (!read.success)
    return json({ message: 'The range cannot be read.', problems: problemsOf(read.error) }, { status: 400 });
  const { from, to, board, services } = read.data;
  const span = range(instantFromText(from), instantFromText(to));
  const { db } = bussola();
  if (board !== undefined && !(await mayMark(db, locals.person, board))) return json(noSuchBoard, { status: 404 });
  const [marks, events] = await Promise.all([
    marksIn(db, span, { ...(board === undefined ? {} : { board }), ...(services === undefined ? {} : { services }) }),
    services === undefined ? [] : eventMarksIn(db, span, services)
  ]);
  return json({ marks: [...marks, ...events] });
};

/** Puts a mark: `{ text, from, to?, board?, service? }` in, the mark out. */
export const POST: RequestHandler = ({ request, locals }) =>
  asked(request, markSchema, async (mark) => {
    const { db, clock, changes } = bussola();
    if (mark.board !== undefined && !(await mayMark(db, locals.person, mark.board)))
      return json(noSuchBoard, { status: 404 });
    const by = { name: locals.person?.displayName ?? '', source: 'person' as const };
    const made = await insertMark(db, mark, by, clock.now());
    if (made === null) return json(noSuchBoard, { status: 404 });
    changes.tell('mark', { markId: made.id, boardId: made.board });
    return json(made, { status: 201 });
  });

/** Whoever sees a board sees its marks, and may put some if they may edit at all. */
const mayMark = async (db: Queryable, person: App.Locals['person'], board: number): Promise<boolean> =>
  (await permitFor(db, person, board, 'view')).kind === 'yes';
