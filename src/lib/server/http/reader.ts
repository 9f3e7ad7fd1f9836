import type { RequestEvent } from '@sveltejs/kit';
import type { Reader } from '../query/query-queue';

/**
 * Does work for the sender of a request, which is told when they have gone: their connection closes. A request's own signal does not say it any more once its body has been read.
 *
 * @param who equal for all whose queries take turns as one, such as all who have one link; anonymous ones have smaller budgets
 */
export async function forReader<Result>(
  { platform }: Pick<RequestEvent, 'platform'>,
  who: Omit<Reader, 'gone'>,
  work: (reader: Reader) => Promise<Result>
): Promise<Result> {
  const gone = new AbortController();
  const onClose = () => gone.abort();
  const socket = platform?.req.socket;
  socket?.once('close', onClose);
  try {
    return await work({ ...who, gone: gone.signal });
  } finally {
    socket?.off('close', onClose);
  }
}
