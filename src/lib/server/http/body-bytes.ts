import { Refusal } from '$lib/core/problem/problem';

/**
 * The bytes of a request's body.
 *
 * @param most bytes that it may have
 * @throws Refusal `too-large`; `invalid` for one without a body
 */
export async function bodyBytes(request: Request, most: number): Promise<Uint8Array> {
  const tooLarge = () =>
    new Refusal(
      'too-large',
      `The file has more than ${Math.round(most / 1024 ** 2)} MB.`,
      'Pack it with gzip, or split it.'
    );
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge();
  if (request.body === null) throw new Refusal('invalid', 'The request has no body.', 'Send the file as the body.');
  const parts: Uint8Array[] = [];
  let length = 0;
  try {
    for await (const part of request.body as unknown as AsyncIterable<Uint8Array>) {
      length += part.byteLength;
      if (length > most) throw tooLarge();
      parts.push(part);
    }
  } catch (error) {
    if ((error as { status?: unknown }).status === 413) throw tooLarge(); // beyond what the server takes at all
    throw error;
  }
  return Buffer.concat(parts);
}
