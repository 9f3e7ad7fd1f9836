import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { authorOf } from '$server/boards/boards';
import { applyFile, fileSchema, mostFileBytes } from '$server/boards/files';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Applies a board's file: makes the board, or changes the one that is meant. */
export const POST: RequestHandler = ({ request, locals: { person } }) =>
  asked(
    request,
    fileSchema,
    async (file) => {
      const done = await applyFile(bussola(), person, file, authorOf(person));
      return json(done, { status: done.kind === 'plan' ? 200 : 422 });
    },
    mostFileBytes
  );
