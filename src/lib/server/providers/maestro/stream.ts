import { refusalIn } from '../port/exchange';
import { ProviderError, type ProviderAccess } from '../port/provider';

/**
 * Opens a stream of server-sent events. The call goes through the guard like every other; the stream itself then continues as long as it lasts.
 *
 * @param what it is, at the beginning of a sentence, and the right that it needs
 * @throws ProviderError
 */
export function openStream(
  access: ProviderAccess,
  path: string,
  {
    what,
    right,
    signal,
    headers = {}
  }: {
    readonly what: string;
    readonly right: string;
    readonly signal: AbortSignal;
    readonly headers?: Readonly<Record<string, string>>;
  }
): Promise<Response> {
  const url = access.endpoint.replace(/\/+$/, '') + path;
  const all = { ...headers, accept: 'text/event-stream', authorization: `Bearer ${access.secret}` };
  return access.guard.run(async () => {
    let response: Response;
    try {
      response = await access.fetch(url, { headers: all, signal, redirect: 'error' });
    } catch (error) {
      if (signal.aborted) throw error;
      const refused = refusalIn(error);
      if (refused !== null) throw refused;
      throw new ProviderError(
        'unreachable',
        `${what} could not be opened.`,
        'Check the address, and that this machine may reach it.',
        { cause: error }
      );
    }
    if (response.ok && response.body !== null) return response;
    throw new ProviderError(
      response.status === 403 ? 'permission' : 'unavailable',
      `${what} answered ${response.status}.`,
      `Grant ${right} to the token at Maestro.`
    );
  });
}
