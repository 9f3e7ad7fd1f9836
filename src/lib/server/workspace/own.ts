import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import type { SecretBox } from '../base/secrets';
import { hashPassword } from '../people/passwords';
import { changeOwn, setPassword, type OwnSettings, type Profile } from '../people/people';
import type { SignInService } from '../people/sign-in';
import { removeFactor, renewCodes, setFactor, takeCode } from '../people/second-factor';
import { endSessionsOf, sessionsOf, type ListedSession } from '../people/sessions';
import { refuseWeak, requireProfile } from './invite';

/** Changes of what people set up for themselves; what lets them in asks for their password once more. */
export interface Own extends Context {
  readonly secrets: SecretBox;
  readonly personId: number;
  /** The key of the session by which they do it, which goes on. */
  readonly sessionKey: string;
  readonly signIn: SignInService;
  readonly address: string;
}

/** Changes one's name, zone and quiet hours. */
export async function changeOwnSettings({ db, changes, personId }: Own, settings: OwnSettings): Promise<Profile> {
  await changeOwn(db, personId, settings);
  changes.tell('routing', {});
  return requireProfile(db, personId);
}

/** Changes one's password and ends all other sessions. @throws Refusal `not-allowed` for a wrong password, `invalid` for a new one that is easy to guess */
export async function changeOwnPassword(own: Own, password: string, newPassword: string): Promise<void> {
  const { db, personId } = own;
  const profile = await requireProfile(db, personId);
  await requirePassword(own, profile, password);
  refuseWeak(newPassword, profile);
  const hash = await hashPassword(newPassword);
  await setPassword(db, personId, hash);
  await endOthers(own);
}

export const ownSessions = ({ db, clock, personId }: Own): Promise<ListedSession[]> =>
  sessionsOf(db, personId, clock.now());

/** Ends a session of one's own. @throws Refusal `not-found` */
export async function endOwnSession({ db, changes, personId }: Own, id: number): Promise<void> {
  const ended = await endSessionsOf(db, personId, [id]);
  if (ended.length === 0) throw new Refusal('not-found', 'There is no such session.', 'It may have ended.');
  for (const key of ended) changes.tell('session', { key });
}

/** Ends all sessions of one's own but this one. @returns how many */
export async function endOthers({ db, changes, personId, sessionKey }: Own): Promise<number> {
  const ended = await endSessionsOf(db, personId, null, sessionKey);
  for (const key of ended) changes.tell('session', { key });
  return ended.length;
}

/**
 * Sets a second factor up, proved by one of its codes.
 *
 * @returns codes for recovery, shown once
 * @throws Refusal `not-allowed` for a wrong password, `invalid` for a wrong code
 */
export async function setOwnFactor(
  own: Own,
  { password, secret, code }: { readonly password: string; readonly secret: string; readonly code: string }
): Promise<string[]> {
  const { db, clock, secrets, personId } = own;
  await requirePassword(own, await requireProfile(db, personId), password);
  const codes = await db.transaction((within) => setFactor(within, secrets, personId, secret, code, clock.now()));
  if (codes === null)
    throw new Refusal(
      'invalid',
      'The code is wrong.',
      'Enter the one that is shown now; check the clock of the device.',
      {
        path: ['code']
      }
    );
  await endOthers(own);
  return codes;
}

/** Removes the second factor. @throws Refusal `not-allowed` for a wrong password */
export async function removeOwnFactor(own: Own, password: string): Promise<void> {
  const { db, personId } = own;
  await requirePassword(own, await requireProfile(db, personId), password);
  await db.transaction((within) => removeFactor(within, personId));
}

/** Gives other codes for recovery, for a code of the second factor. @throws Refusal `invalid` for a wrong code */
export async function renewOwnCodes({ db, clock, secrets, personId }: Own, code: string): Promise<string[]> {
  const codes = await db.transaction(async (within) =>
    (await takeCode(within, secrets, personId, code, clock.now())) ? renewCodes(within, personId) : null
  );
  if (codes === null) throw new Refusal('invalid', 'The code is wrong.', 'Enter the next one.', { path: ['code'] });
  return codes;
}

async function requirePassword(
  { db, signIn, address }: Own,
  { name, hasPassword }: Profile,
  password: string
): Promise<void> {
  if (!hasPassword)
    throw new Refusal(
      'not-allowed',
      'You sign in by another service and have no password.',
      'Ask an administrator to invite you again: the link lets you choose one.'
    );
  const verdict = await signIn.isOwn(db, name, password, address);
  if (verdict === 'too many')
    throw new Refusal('too-many-requests', 'Too many wrong passwords.', 'Wait a quarter of an hour, then try again.');
  if (verdict === 'wrong')
    throw new Refusal('not-allowed', 'The password is wrong.', 'Enter the one that you sign in with.', {
      path: ['password']
    });
}
