import { asked } from '$server/http/asked';
import { answerQuery, querySchema } from '$server/query/query';
import { forReader } from '$server/http/reader';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Evaluates a signal: `{ signal, from, to, cells? }` in, columns out; CSV for who accepts `text/csv`. */
export const POST: RequestHandler = (event) =>
  asked(event.request, querySchema, async (query) => {
    const format = (event.request.headers.get('accept') ?? '').includes('text/csv') ? 'csv' : 'json';
    const bytes = await forReader(event, (reader) => answerQuery(bussola(), query, reader, format));
    return new Response(bytes as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': format === 'csv' ? 'text/csv; charset=utf-8; header=present' : 'application/json' }
    });
  });
