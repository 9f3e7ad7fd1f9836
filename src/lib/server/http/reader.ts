import type { RequestEvent } from '@sveltejs/kit';
import type { Reader } from '../query/query-queue';

/**
 * Does work for who sent a request, and says when they have gone: their connection closes. A request's own signal does not say it any more once its body has been read.
 *
 * @param name of all who share a link; the person who has signed in by default
 */
export async function forReader<Result>(
  { locals, platform }: Pick<RequestEvent, 'locals' | 'platform'>,
  work: (reader: Reader) => Promise<Result>,
  name: string | null = null
): Promise<Result> {
  const gone = new AbortController();
  const onClose = () => gone.abort();
  const socket = platform?.req.socket;
  socket?.once('close', onClose);
  try {
    return await work({
      name: name ?? `person ${locals.person?.id ?? 0}`,
      isAnonymous: locals.person === null || name !== null,
      gone: gone.signal
    });
  } finally {
    socket?.off('close', onClose);
  }
}
