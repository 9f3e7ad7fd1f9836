import { Refusal } from '$lib/core/problem/problem';

/** What the system or a PostgreSQL server says where no connection comes about, by its code, with what to do. */
const faults: Readonly<Record<string, readonly [why: string, remedy: string]>> = {
  ECONNREFUSED: ['nothing listens there', 'Start the server, or correct its address and port.'],
  ENOTFOUND: ['there is no host of that name', 'Correct the name of the host.'],
  EAI_AGAIN: ['the name of its host could not be looked up', 'Check this machine’s name servers.'],
  ETIMEDOUT: ['it did not answer in time', 'Check that this machine may reach it.'],
  ECONNRESET: ['it cut the connection', 'Check whether it asks for TLS: sslmode=require in its address.'],
  '28P01': ['it refused the name or the password', 'Correct them in its address.'],
  '28000': ['it does not let this user in', 'Check the user’s rights and from where it may connect.'],
  '3D000': ['it has no such database', 'Create the database, or correct its name.'],
  '42501': ['the user may not create tables there', 'Grant the user all rights on the schema of the database.'],
  '53300': ['it has no connection left', 'Raise its limit of connections, or end other programs that use it.'],
  '57P03': ['it is still starting', 'Start Bussola again in a moment.']
};

/** A connection to a database server that does not come about, as a refusal with a remedy; null for any other failure. @example connectionFault({ code: '28P01' })?.message */
export function connectionFault(error: unknown): Refusal | null {
  const { code } = error as { code?: unknown };
  const known = typeof code === 'string' ? faults[code] : undefined;
  if (known === undefined) return null;
  const [why, remedy] = known;
  return new Refusal('configuration', `The database of DATABASE_URL cannot be used: ${why}.`, remedy, { cause: error });
}
