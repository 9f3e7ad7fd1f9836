import type { z } from 'zod';
import { jsonOrNull } from '$lib/core/forms/json';
import { refusalOfSchema } from '$lib/core/forms/problems';
import { unstorableIn } from '$lib/core/forms/storable';
import { Refusal } from '$lib/core/problem/problem';

/** The largest body of a request in JSON, bytes; those that carry a file may be larger. */
const mostBytes = 1024 * 1024;

/**
 * Reads the JSON of a request by a schema.
 *
 * @param most bytes of the body
 * @throws Refusal `invalid` naming each path, `too-large`
 * @example const query = await readJson(request, querySchema)
 */
export async function readJson<Schema extends z.ZodType>(
  request: Request,
  schema: Schema,
  most = mostBytes
): Promise<z.infer<Schema>> {
  const text = await boundedText(request, most);
  if (text === null)
    throw new Refusal('too-large', `The request has more than ${Math.round(most / 1024)} kB.`, 'Send less at once.');
  const body = jsonOrNull(text);
  const unstorable = unstorableIn(body);
  if (unstorable !== null) {
    const { path, why } = unstorable;
    throw new Refusal('invalid', `${path === '' ? 'The request' : path} ${why}.`, 'Send it without.', {
      problems: [{ path, message: why }]
    });
  }
  const read = schema.safeParse(body);
  if (!read.success) throw refusalOfSchema(read.error);
  return read.data;
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
