import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { fileSchema, mostFileBytes, planFile } from '$server/boards/files';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Says what applying a board's file would do, and what it names that is not here: `{ text, mapping?, into?, match? }` in, the plan or what is wrong out. */
export const POST: RequestHandler = ({ request, locals }) =>
  asked(
    request,
    fileSchema,
    async (file) => {
      const plan = await planFile(bussola(), locals.person, file);
      return json(plan, { status: plan.kind === 'plan' ? 200 : 422 });
    },
    mostFileBytes
  );
