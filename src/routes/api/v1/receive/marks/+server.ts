import { json } from '@sveltejs/kit';
import { problemsOf } from '$lib/core/forms/problems';
import { markSchema } from '$lib/core/mark';
import { noSuchBoard } from '$server/boards/missing';
import { insertMark } from '$server/marks/marks';
import { admitted, NotTaken } from '$server/receive/receive';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** Takes a mark from a program with a key, such as one that deploys: `{ text, from, to?, board?, service? }`. */
export const POST: RequestHandler = async ({ request }) => {
  try {
    const server = bussola();
    const { key, body } = await admitted(server, request, 'marks');
    const read = markSchema.safeParse(jsonOf(body));
    if (!read.success)
      return json({ message: 'The mark cannot be read.', problems: problemsOf(read.error) }, { status: 400 });
    const made = await insertMark(server.db, read.data, { name: key.name, source: 'program' }, server.clock.now());
    if (made === null) return json(noSuchBoard, { status: 404 });
    server.changes.tell('mark', { markId: made.id });
    return json(made, { status: 201 });
  } catch (problem) {
    if (!(problem instanceof NotTaken)) throw problem;
    return json({ message: problem.message, remedy: problem.remedy }, { status: problem.status });
  }
};

function jsonOf(body: Buffer): unknown {
  try {
    return JSON.parse(body.toString('utf8'));
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    throw new NotTaken(400, 'The mark is not JSON.', 'Send {"text": "…", "from": "2026-05-04T08:00:00Z"}.');
  }
}
