import type { RequestEvent } from '@sveltejs/kit';
import { roleOfScope } from '$lib/core/people/key-scopes';
import { hasRights, type Role } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import { authorOf } from '../boards/boards';
import { bearerOf } from '../intake/receive/admit';
import { keyByText, type Key } from '../intake/receive/keys';
import { actRight } from '../people/act-access';
import { lineRight } from '../people/line-access';
import { profileOf } from '../people/people';
import type { Bussola } from '../process/start';
import type { Call, Caller, Operation } from './operation';

/** The accounts whose lines a caller may read; null for all. */
export const linesOf = async ({ db }: Bussola, { reader, scopes }: Caller): Promise<readonly number[] | null> =>
  scopes === undefined ? lineRight.of(db, reader) : scopes.includes('read-lines') ? null : [];

/** The accounts on whose resources a caller may act; null for all. A key does so in the right that whoever made it has now. */
export async function actsOf({ db }: Bussola, { reader, scopes, keyOwner }: Caller): Promise<readonly number[] | null> {
  if (scopes === undefined) return actRight.of(db, reader);
  if (!scopes.includes('act') || keyOwner === undefined || keyOwner === null) return [];
  const owner = await profileOf(db, keyOwner);
  return actRight.of(db, owner?.disabledAt === null ? owner : null);
}

/** All who share a turn: one person, all programs with one key, all who have not signed in. */
export const turnOf = ({ reader, author }: Caller) =>
  reader === null
    ? { name: 'nobody', isAnonymous: true }
    : { name: reader.id === 0 ? `key ${author.displayName}` : `person ${reader.id}`, isAnonymous: false };

export const nobody = ({ locals }: RequestEvent): Caller => ({
  reader: null,
  author: authorOf(null),
  address: locals.address,
  signedIn: null
});

/** Whoever has signed in, whatever they may do. */
export const signedInCaller = ({ locals: { person, address } }: RequestEvent): Caller => ({
  reader: person === null ? null : { id: person.id, role: person.role },
  author: authorOf(person),
  address,
  signedIn: null
});

/** @throws Refusal when who calls may not */
export async function callerOf(
  server: Bussola,
  operation: Operation,
  event: RequestEvent,
  told: Headers | null
): Promise<Caller> {
  const { person, session = null, address } = event.locals;
  const text = bearerOf(event.request);
  if (text !== null) return withKey(server, operation, text, address, told);
  if (operation.right !== 'anybody') {
    if (person === null)
      throw new Refusal(
        'not-signed-in',
        'You are not signed in, or your session has ended.',
        'Sign in, or send a key that may read as "Authorization: Bearer …".'
      );
    if (!hasRights(person.role, operation.right))
      throw new Refusal(
        'not-allowed',
        `Your role (${person.role}) does not allow this.`,
        'Ask an administrator of this workspace.'
      );
  }
  const signedIn = person === null || session === null ? null : { personId: person.id, sessionKey: session.key };
  return { reader: person, author: authorOf(person), address, signedIn };
}

/** A program with a key reads and changes what every person of the workspace does in a role, and nothing that is private to some. */
async function withKey(
  { db, clock, uses, requestRate }: Bussola,
  { right, scope }: Operation,
  text: string,
  address: string,
  told: Headers | null
): Promise<Caller> {
  const key = await keyByText(db, text, clock.now());
  if (key === null)
    throw new Refusal('key-refused', 'The key is unknown, revoked or has expired.', 'Make a new one on the page Keys.');
  if (told !== null)
    for (const [name, value] of Object.entries(await requestRate.count(String(key.id)))) told.set(name, value);
  if (right !== 'anybody' && (scope === null || !key.scopes.includes(scope)))
    throw new Refusal(
      'not-allowed',
      scope === null
        ? 'No key may do this.'
        : `The key ${key.name} lacks the scope "${scope}"; it has ${key.scopes.join(' and ')}.`,
      scope === null ? 'Sign in as a person.' : 'Make a key with this scope on the page Keys.'
    );
  const role = await roleWith(db, key, roleOfScope(scope));
  uses.take(key, 0, clock.now()); // when it was last used
  return {
    ...{
      reader: { id: 0, role },
      author: { id: null, displayName: key.name },
      scopes: key.scopes,
      keyOwner: key.ownerId
    },
    ...{ address, signedIn: null }
  };
}

/** @throws Refusal where the key would do what whoever made it may not do any more */
async function roleWith(db: Bussola['db'], { name, ownerId, createdBy }: Key, role: Role): Promise<Role> {
  if (role === 'viewer') return role;
  const owner = ownerId === null ? null : await profileOf(db, ownerId);
  if (owner?.disabledAt === null && hasRights(owner.role, role)) return role;
  throw new Refusal(
    'not-allowed',
    `The key ${name} does this in the right of ${createdBy}, who may not do it any more.`,
    'Let somebody who may make another key.'
  );
}

/** In whose right something will be done by itself: of whoever calls, or of whoever made the key that calls. */
export const inRightOf = async ({
  author,
  keyOwner,
  actAccounts
}: Pick<Call<unknown, unknown, unknown>, 'author' | 'keyOwner' | 'actAccounts'>) => ({
  by: author.displayName,
  personId: author.id ?? keyOwner ?? 0,
  accounts: await actAccounts()
});
