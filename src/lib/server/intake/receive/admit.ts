import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../../db/context';
import type { Disk } from '../../base/disk';
import type { KeyUses } from './key-uses';
import type { KeyScope } from '$lib/core/people/key-scopes';
import { keyByText, type Key } from './keys';

/** The key that a request carries as `Authorization: Bearer …`; null when it carries none. */
export const bearerOf = (request: Request): string | null =>
  /^Bearer +(\S+) *$/i.exec(request.headers.get('authorization') ?? '')?.[1] ?? null;

/** What was sent with a good key. */
export interface Admitted {
  readonly key: Key;
  readonly body: Buffer;
  readonly isGzip: boolean;
  /** The media type, in small letters and without parameters. */
  readonly mediaType: string;
}

/**
 * The key of a request and its body, as it was sent.
 *
 * @param mediaTypes that are taken; any when this is not given
 * @throws NotTaken without a good key (401), beyond its bytes of a day (429), for a media type or an encoding that is not known (415); DiskIsLow (503)
 */
export async function admitted(
  { db, clock, disk, uses }: Pick<Context, 'db' | 'clock'> & { readonly disk: Disk; readonly uses: KeyUses },
  request: Request,
  scope: KeyScope,
  mediaTypes: readonly string[] | null = null
): Promise<Admitted> {
  const text = bearerOf(request);
  const key = text === null ? null : await keyByText(db, text, clock.now());
  if (key === null || !key.scopes.includes(scope))
    throw new Refusal(
      'key-refused',
      'The key is missing, not from here, revoked or has expired.',
      'Send a key of Bussola as "Authorization: Bearer …"; keys are made on the page Keys.'
    );
  disk.refuseWhenLow();
  const mediaType = (request.headers.get('content-type') ?? '').split(';')[0]?.trim().toLowerCase() ?? '';
  if (mediaType === '')
    throw new Refusal(
      'media-type',
      'The request has no content type, so its body cannot be read.',
      'Send a Content-Type, such as text/plain or application/json.'
    );
  if (mediaTypes !== null && !mediaTypes.includes(mediaType))
    throw new Refusal(
      'media-type',
      `The content type ${mediaType.slice(0, 80)} is not read here.`,
      `Send ${mediaTypes.join(' or ')}.`
    );
  const encoding = (request.headers.get('content-encoding') ?? 'identity').trim().toLowerCase();
  if (encoding !== 'identity' && encoding !== 'gzip')
    throw new Refusal(
      'media-type',
      `The encoding ${encoding.slice(0, 40)} is not known here.`,
      'Send it unpacked, or packed by gzip.'
    );
  const body = Buffer.from(await request.arrayBuffer());
  if (!uses.take(key, body.length, clock.now()))
    throw new Refusal(
      'limit-reached',
      `The key ${key.name} may send ${key.mostBytesADay} bytes a day, and has.`,
      'Send less, or ask an administrator for a key with a higher limit.'
    );
  return { key, body, isGzip: encoding === 'gzip', mediaType };
}
