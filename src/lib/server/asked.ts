import { json } from '@sveltejs/kit';
import type { z } from 'zod';
import { problemsOf } from '$lib/core/forms/problems';
import { Refusal } from './refusal';
import { SignalRefusal } from './signals/resolve';

/**
 * Reads a request's JSON by a schema and answers it. What cannot be read is a 400 that names each path; what is refused is a 422 with the way out, and with the
 * path within the signal where there is one.
 *
 * @example export const POST = ({ request }) => asked(request, querySchema, async (query) => json(await work(query)))
 */
export async function asked<Schema extends z.ZodType>(
  request: Request,
  schema: Schema,
  answer: (read: z.infer<Schema>) => Promise<Response>
): Promise<Response> {
  let body: unknown = null;
  try {
    body = await request.json();
  } catch (error) {
    if ((error as { status?: unknown }).status === 413)
      return json({ message: 'What was sent is too large to be read.', remedy: 'Send less at once.' }, { status: 413 });
    if (!(error instanceof SyntaxError)) throw error;
  }
  const read = schema.safeParse(body);
  if (!read.success)
    return json({ message: 'The query cannot be read.', problems: problemsOf(read.error) }, { status: 400 });
  try {
    return await answer(read.data);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    const { message, remedy } = error;
    const where = error instanceof SignalRefusal ? { path: error.path, at: error.at } : {};
    return json({ message, remedy, ...where }, { status: 422 });
  }
}
