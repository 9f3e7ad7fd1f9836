import { json } from '@sveltejs/kit';
import { answerQuery, querySchema } from '$server/query';
import { Refusal } from '$server/refusal';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** Evaluates a signal: `{ signal, from, to, cells? }` in, `{ now, start, step, count, series }` out; CSV for who accepts `text/csv`. */
export const POST: RequestHandler = async ({ request }) => {
  const query = querySchema.safeParse(await request.json().catch(() => null));
  if (!query.success) {
    const problems = query.error.issues.map(({ path, message }) => ({ path: path.join('.'), message }));
    return json({ message: 'The query cannot be read.', problems }, { status: 400 });
  }
  try {
    const format = (request.headers.get('accept') ?? '').includes('text/csv') ? 'csv' : 'json';
    return new Response((await answerQuery(bussola(), query.data, format)) as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': format === 'csv' ? 'text/csv; charset=utf-8; header=present' : 'application/json' }
    });
  } catch (error) {
    if (error instanceof Refusal) return json({ message: error.message, remedy: error.remedy }, { status: 422 });
    throw error;
  }
};
