import type { Connector, ConnectorPart } from '$lib/core/connector';
import { Refusal } from '$lib/core/problem/problem';
import { countOf } from '$lib/core/words/count';
import { accountById, ownProvider } from '../inventory/accounts';
import { accessOf, accessToTest } from '../intake/ledger/intake';
import type { Guards, Intake } from '../intake/ledger/intake';
import { pagesProvider, pushedProvider } from '../inventory/self-described';
import type { ConnectorPool } from '../providers/connector/connector-pool';
import type { Provider, ProviderAccess } from '../providers/port/provider';
import { recordingOf, recordingSchema, testOnRecording, type TestedRecording } from './recordings';
import {
  accountsOf,
  allRecordings,
  connectorById,
  connectorOfKey,
  deleteConnector,
  deleteRecording,
  insertConnector,
  listRecordings,
  saveRecording,
  updateConnector,
  type StoredConnector
} from './stored-connectors';
import { tryConnector, type Tried, type TryInputs } from './try-connector';

/** What managing connectors needs. */
export interface Connecting extends Pick<Intake, 'db' | 'clock' | 'secrets' | 'changes'> {
  readonly guards: Guards;
  readonly providers: Readonly<Record<string, Provider>>;
  readonly connectors: { readonly pool: ConnectorPool; refresh(): Promise<void> };
}

/** Recordings of one connector at most. */
const mostRecordings = 30;

/**
 * The connector of a text.
 *
 * @throws Refusal `invalid` with each fault and its line
 */
export async function readOrRefuse({ connectors }: Pick<Connecting, 'connectors'>, text: string): Promise<Connector> {
  const read = await connectors.pool.read(text);
  if (read.kind === 'read') return read.connector;
  throw new Refusal(
    'invalid',
    `The connector has ${countOf(read.problems.length, 'fault')}.`,
    'Correct what stands below. Nothing was saved.',
    { path: ['text'], problems: read.problems }
  );
}

/** @throws Refusal `not-found` */
export async function requireConnector({ db }: Pick<Connecting, 'db'>, id: number): Promise<StoredConnector> {
  const found = await connectorById(db, id);
  if (found === null)
    throw new Refusal(
      'not-found',
      'There is no such connector.',
      'It may have been removed. See the list of connectors.'
    );
  return found;
}

/** Saves a new connector; accounts can be connected by it at once. @returns its id */
export async function addConnector(connecting: Connecting, text: string, by: string): Promise<number> {
  const { db, clock, providers, connectors } = connecting;
  const { key, name } = await readOrRefuse(connecting, text);
  if (Object.hasOwn(providers, key) || ofBussola.has(key) || (await accountsOf(db, key)).length > 0) throw taken(key);
  const id = await insertConnector(db, { key, name, text, changedAt: clock.now(), changedBy: by });
  if (id === null) throw taken(key);
  await connectors.refresh();
  return id;
}

/** Keys of accounts that no provider is asked for: a connector of that key would be given what is theirs. */
const ofBussola: ReadonlySet<string> = new Set([pushedProvider, pagesProvider, ownProvider]);

const taken = (key: string): Refusal =>
  new Refusal('name-taken', `There is a provider with the key ${key} already.`, 'Choose another key in the file.', {
    path: ['text']
  });

/** Saves a changed connector; accounts are read by it from now on. @param seen the version that was changed */
export async function changeConnector(
  connecting: Connecting,
  id: number,
  { text, version: seen }: { readonly text: string; readonly version: number },
  by: string
): Promise<void> {
  const { db, clock, connectors } = connecting;
  const before = await requireConnector(connecting, id);
  const { key, name } = await readOrRefuse(connecting, text);
  if (key !== before.key)
    throw new Refusal(
      'invalid',
      `The key of a connector stays: its accounts name ${before.key}.`,
      'Enter that key again, or save this as another connector.',
      { path: ['text'] }
    );
  if (!(await updateConnector(db, { id, version: seen, name, text, changedAt: clock.now(), changedBy: by })))
    throw new Refusal(
      'changed-meanwhile',
      `${before.changedBy} saved this connector after you opened it.`,
      'Copy your text, open it again, and enter your changes there.'
    );
  await connectors.refresh();
}

/** Removes a connector that no account is read by. @throws Refusal `in-use` */
export async function removeConnector(connecting: Connecting, id: number): Promise<void> {
  const { db, changes } = connecting;
  const { key } = await requireConnector(connecting, id);
  const accounts = await accountsOf(db, key);
  if (accounts.length > 0)
    throw new Refusal(
      'in-use',
      `${accounts.slice(0, 3).join(', ')}${accounts.length > 3 ? ` and ${accounts.length - 3} more` : ''} ${accounts.length === 1 ? 'is' : 'are'} read by it.`,
      'Remove these accounts first.'
    );
  await deleteConnector(db, id);
  changes.tell('connectors', {});
}

/** Whose access a try uses: an account that is read by the connector, or a credential that is entered for this once. */
export type TryAccess =
  { readonly accountId: number } | { readonly endpoint: string; readonly keyId: string; readonly secret: string };

/** @throws Refusal `invalid` for an account of another provider: its secret is not for this connector */
async function accessFor(connecting: Connecting, key: string, given: TryAccess): Promise<ProviderAccess> {
  if (!('accountId' in given)) return accessToTest(connecting.guards, given);
  const account = await accountById(connecting.db, given.accountId);
  // What is written may have any key: only that of a saved connector counts.
  const isSaved = await connectorOfKey(connecting.db, key);
  if (account?.provider !== key || !isSaved)
    throw new Refusal(
      'invalid',
      'This account is not read by this connector.',
      'Choose one that is, or enter a credential.',
      { path: ['access', 'accountId'] }
    );
  return accessToTest(connecting.guards, await accessOf(connecting, account));
}

/** What is tried. */
export interface TryOrder {
  readonly text: string;
  readonly access: TryAccess;
  readonly part: ConnectorPart;
  readonly inputs: TryInputs;
}

/** Tries a part of a text that need not be saved. @throws Refusal `invalid` */
export async function tryText(
  connecting: Connecting,
  { text, access: given, part, inputs }: TryOrder
): Promise<{ readonly tried: Tried; readonly access: ProviderAccess; readonly connector: Connector }> {
  const connector = await readOrRefuse(connecting, text);
  const access = await accessFor(connecting, connector.key, given);
  const { clock, connectors } = connecting;
  return {
    tried: await tryConnector({ clock, pool: connectors.pool }, connector, access, part, inputs),
    access,
    connector
  };
}

/** Tries a part, and saves what was requested and answered under a name. @returns the id of the recording @throws Refusal where the try failed */
export async function recordTry(
  connecting: Connecting,
  id: number,
  { name, ...order }: TryOrder & { readonly name: string },
  by: string
): Promise<number> {
  const { db, clock } = connecting;
  await requireConnector(connecting, id);
  const recordings = await listRecordings(db, id);
  if (recordings.length >= mostRecordings && !recordings.some((one) => one.name === name))
    throw new Refusal('limit-reached', `A connector has ${mostRecordings} recordings at most.`, 'Remove one first.');
  const now = clock.now();
  // The clock stands still while it is recorded, as it does when it is tested.
  const { tried, access } = await tryText({ ...connecting, clock: { now: () => now } }, order);
  if (tried.problem !== null) throw tried.problem;
  const { endpoint, keyId } = access;
  const recording = recordingOf(tried, { part: order.part, now, endpoint, keyId });
  return saveRecording(db, { connectorId: id, name, part: order.part, recording, madeAt: now, madeBy: by });
}

/** Tests a text on each recording of a connector. @throws Refusal `invalid` */
export async function testText(
  connecting: Connecting,
  id: number,
  text: string
): Promise<(TestedRecording & { readonly id: number; readonly name: string; readonly part: ConnectorPart })[]> {
  await requireConnector(connecting, id);
  const connector = await readOrRefuse(connecting, text);
  const results: (TestedRecording & { id: number; name: string; part: ConnectorPart })[] = [];
  for (const { id: recordingId, name, part, recording } of await allRecordings(connecting.db, id)) {
    const read = recordingSchema.safeParse(recording);
    const result = read.success
      ? await testOnRecording(connecting.connectors, connector, read.data)
      : { passed: false, says: 'The recording was made by another version of Bussola. Record it again.' };
    results.push({ id: recordingId, name, part, ...result });
  }
  return results;
}

/** @throws Refusal `not-found` */
export async function removeRecording({ db }: Connecting, connectorId: number, id: number): Promise<void> {
  if (!(await deleteRecording(db, connectorId, id)))
    throw new Refusal('not-found', 'There is no such recording.', 'It may have been removed. Load the page again.');
}
