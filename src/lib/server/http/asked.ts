import { jsonOrNull } from '$lib/core/forms/json';
import { json } from '@sveltejs/kit';
import type { z } from 'zod';
import { problemsOf } from '$lib/core/forms/problems';
import { unstorableIn } from '$lib/core/forms/storable';
import { GivenUp } from '../query/query-turns';
import { ReadingFault } from '../parsing/reading-room';
import { Refusal } from '../base/refusal';
import { SignalRefusal } from '../query/signals/resolve';

/** The largest body of a request in JSON, bytes; those that carry a file may be larger. */
const mostBytes = 1024 * 1024;

/**
 * Reads a request's JSON by a schema and answers it. What cannot be read is a 400 that names each path; what is too large a 413; what is refused is a 422 with the way
 * out, and with the path within the signal where there is one.
 *
 * @param most bytes of the body
 * @example export const POST = ({ request }) => asked(request, querySchema, async (query) => json(await work(query)))
 */
export async function asked<Schema extends z.ZodType>(
  request: Request,
  schema: Schema,
  answer: (read: z.infer<Schema>) => Promise<Response>,
  most = mostBytes
): Promise<Response> {
  const text = await boundedText(request, most);
  if (text === null)
    return json(
      { message: `What was sent has more than ${Math.round(most / 1024)} kB.`, remedy: 'Send less at once.' },
      { status: 413 }
    );
  const body = jsonOrNull(text);
  const unstorable = unstorableIn(body);
  if (unstorable !== null) {
    const { path, why } = unstorable;
    const message = `${path === '' ? 'What was sent' : `${path}:`} ${why}.`;
    return json({ message, problems: [{ path, message: why }] }, { status: 400 });
  }
  const read = schema.safeParse(body);
  if (!read.success)
    return json({ message: 'The request cannot be read.', problems: problemsOf(read.error) }, { status: 400 });
  try {
    return await answer(read.data);
  } catch (error) {
    if (error instanceof ReadingFault)
      return json({ message: error.message, remedy: error.remedy }, { status: error.status });
    if (error instanceof GivenUp) return new Response(null, { status: 499 }); // nobody reads it
    if (!(error instanceof Refusal)) throw error;
    const { message, remedy, status } = error;
    const where = error instanceof SignalRefusal ? { path: error.path, at: error.at } : {};
    const headers: Record<string, string> = status === 429 || status === 503 ? { 'retry-after': '10' } : {};
    return json({ message, remedy, ...where }, { status, headers });
  }
}

/** The text of a body; null when it has more bytes, of which the rest is not read. */
async function boundedText(request: Request, most: number): Promise<string | null> {
  if (Number(request.headers.get('content-length') ?? 0) > most) return null;
  if (request.body === null) return '';
  const decoder = new TextDecoder();
  let text = '';
  let bytes = 0;
  try {
    for await (const part of request.body as unknown as AsyncIterable<Uint8Array>) {
      bytes += part.byteLength;
      if (bytes > most) return null;
      text += decoder.decode(part, { stream: true });
    }
  } catch (error) {
    if ((error as { status?: unknown }).status === 413) return null; // beyond what the server takes at all
    throw error;
  }
  return text + decoder.decode();
}
