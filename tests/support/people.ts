import type { Role } from '../../src/lib/core/people/rights';
import { hashPassword } from '../../src/lib/server/people/passwords';
import { insertPerson, type Person } from '../../src/lib/server/people/people';
import { sessionOf } from '../../src/lib/server/people/sessions';
import type { Own } from '../../src/lib/server/workspace/own';
import { mailsTo, type House } from './bussola';

/** A password that may be used, and whence people sign in with it. */
export const good = 'four ferries cross at dusk';
export const from = { address: '192.0.2.7', agent: 'a browser' };

/** The code of the refusal that some work ends in; `done` where it is not refused. */
export async function codeOfRefusal(work: Promise<unknown>): Promise<string> {
  const error = await work.then(
    () => null,
    (refused: unknown) => refused
  );
  if (error === null) return 'done';
  if (typeof error === 'object' && 'code' in error) return String(error.code);
  throw error as Error;
}

/** The token of the newest link below a path that was mailed to somebody. */
export function tokenInMail(house: House, to: string, path: string): string {
  const mails = mailsTo(house, to).filter(({ text }) => text.includes(path));
  const found = new RegExp(`${path}([\\w-]+)`).exec(mails[0]?.text ?? '');
  if (!found?.[1]) throw new Error(`no ${path} was sent to ${to}`);
  return found[1];
}

export const newPerson = async ({ bussola, clock }: House, name: string, role: Role = 'editor'): Promise<Person> =>
  insertPerson(bussola.db, {
    ...{ name, displayName: `The ${name}`, role, zone: 'UTC', mail: `${name}@example.test` },
    passwordHash: await hashPassword(good),
    createdAt: clock.now()
  });

/** Signs somebody in with {@link good}, as what they do for themselves needs it. */
export async function signedIn({ bussola }: House, name: string): Promise<Own & { token: string }> {
  const { db, clock, changes, secrets, signIn } = bussola;
  const result = await signIn.withPassword(db, name, good, from, clock.now());
  if (result.kind !== 'signed in') throw new Error(result.kind);
  const session = await sessionOf(db, result.token, clock.now());
  return {
    ...{ db, clock, changes, secrets, signIn, address: from.address, token: result.token },
    ...{ personId: result.person.id, sessionKey: session?.key ?? '' }
  };
}
