import { json } from '@sveltejs/kit';
import { problemsOf } from '$lib/core/forms/problems';
import { markSchema } from '$lib/core/mark';
import { boardById } from '$server/boards/boards';
import { noSuchBoard } from '$server/boards/missing';
import { insertMark } from '$server/marks/marks';
import { unstorableIn } from '$lib/core/forms/storable';
import { admitted } from '$server/intake/receive/admit';
import { isNotTaken, NotTaken } from '$server/intake/receive/not-taken';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Takes a mark from a program with a key, such as one that deploys: `{ text, from, to?, board?, service? }`. */
export const POST: RequestHandler = async ({ request }) => {
  try {
    const server = bussola();
    const { key, body, isGzip } = await admitted(server, request, 'marks');
    const read = markSchema.safeParse(jsonOf(body, isGzip));
    if (!read.success)
      return json({ message: 'The mark cannot be read.', problems: problemsOf(read.error) }, { status: 400 });
    // A key is nobody in particular: it reaches the boards of the workspace, and none that are private.
    const { board } = read.data;
    if (board !== undefined && (await boardById(server.db, board))?.sharing.reach !== 'workspace')
      return json(noSuchBoard, { status: 404 });
    const made = await insertMark(server.db, read.data, { name: key.name, source: 'program' }, server.clock.now());
    if (made === null) return json(noSuchBoard, { status: 404 });
    server.changes.tell('mark', { markId: made.id, boardId: made.board });
    return json(made, { status: 201 });
  } catch (problem) {
    if (!isNotTaken(problem)) throw problem;
    return json({ message: problem.message, remedy: problem.remedy }, { status: problem.status });
  }
};

/** A mark is small: what is larger is none. */
const mostBytes = 64 * 1024;

function jsonOf(body: Buffer, isGzip: boolean): unknown {
  const example = 'Send {"text": "…", "from": "2026-05-04T08:00:00Z"}.';
  if (isGzip || body.length > mostBytes)
    throw new NotTaken(413, 'A mark is sent unpacked and has at most 64 kB.', example);
  let mark: unknown;
  try {
    mark = JSON.parse(body.toString('utf8'));
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    throw new NotTaken(400, 'The mark is not JSON.', example);
  }
  const problem = unstorableIn(mark);
  if (problem !== null)
    throw new NotTaken(400, `The mark cannot be stored: ${problem.path} ${problem.why}.`, 'Send it without.');
  return mark;
}
