import { asked } from '$server/asked';
import { answerQuery, querySchema } from '$server/query';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** Evaluates a signal: `{ signal, from, to, cells? }` in, columns out; CSV for who accepts `text/csv`. */
export const POST: RequestHandler = ({ request }) =>
  asked(request, querySchema, async (query) => {
    const format = (request.headers.get('accept') ?? '').includes('text/csv') ? 'csv' : 'json';
    const bytes = await answerQuery(bussola(), query, format);
    return new Response(bytes as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': format === 'csv' ? 'text/csv; charset=utf-8; header=present' : 'application/json' }
    });
  });
