import { applyingRules, targetsForm, type Targets } from '$lib/core/targets';
import { writeStored } from '$lib/core/forms/stored';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../../db/context';
import { certificateFaults, isCertificate } from '../../base/certificates';
import type { Changes } from '../../base/changes';
import type { Config } from '../../base/config';
import type { SecretBox } from '../../base/secrets';
import { insertAccount } from '../../inventory/accounts';
import { pagesProvider } from '../../inventory/self-described';
import { historyStart } from '../pull/pull';
import { pageCaller, type PageCaller } from './call-page';
import { listPages, type ListedPage } from './list-pages';
import { pageAccount, savePages, type PageAccount } from './page-accounts';
import { readTarget, type PageReader } from './read-target';
import type { TargetReading } from './target-states';

/** What managing accounts of pages needs. */
export interface ManagingPages extends Pick<Context, 'db' | 'clock'>, PageReader {
  readonly secrets: SecretBox;
  readonly changes: Changes;
  readonly config: Pick<Config, 'reach' | 'targetFolder'>;
}

/** Connects an account of pages; they are read from the next moment on. @returns its id @throws Refusal `name-taken`, `invalid` */
export async function connectPages(
  { db, clock, secrets, changes }: ManagingPages,
  { name, definition, secret }: { readonly name: string; readonly definition: Targets; readonly secret: string },
  by: string
): Promise<number> {
  refuseBrokenAuthority(definition);
  refuseUnusableSecret(definition, secret);
  const now = clock.now();
  const { id } = await insertAccount(db, {
    ...{ name, provider: pagesProvider, endpoint: addressOf(definition), keyId: definition.signIn.by },
    ...{ sealedSecret: secret === '' ? Buffer.alloc(0) : secrets.seal(secret), createdAt: now, createdBy: by },
    ...{ historyFrom: historyStart(now, 0), settings: writeStored(targetsForm, definition) }
  });
  changes.tell('pages', { accountId: id });
  changes.tell('account', { accountId: id });
  return id;
}

/** @throws Refusal `not-found` */
export async function requirePages({ db }: Pick<Context, 'db'>, id: number): Promise<PageAccount> {
  const account = await pageAccount(db, id);
  if (account === null)
    throw new Refusal('not-found', 'There is no such account of pages.', 'Choose one on the page Accounts.');
  return account;
}

/**
 * Changes what an account of pages reads.
 *
 * @param secret another secret; empty for the one that it has
 * @throws Refusal `not-found`; `invalid` where the sign-in needs a secret that is not there
 */
export async function changePages(
  managing: ManagingPages,
  id: number,
  definition: Targets,
  secret: string
): Promise<void> {
  const { db, clock, secrets, changes } = managing;
  const account = await requirePages(managing, id);
  refuseBrokenAuthority(definition);
  // A secret for one way to sign in is none for another one.
  const isSameWay = account.definition.signIn.by === definition.signIn.by;
  const stays = secret === '' && isSameWay && account.sealedSecret.length > 0;
  if (stays) refuseForeignHosts(account, definition);
  refuseUnusableSecret(definition, stays ? secrets.open(account.sealedSecret) : secret);
  const sealed = stays ? null : secret === '' ? Buffer.alloc(0) : secrets.seal(secret);
  await savePages(db, id, definition, sealed, clock.now());
  changes.tell('pages', { accountId: id });
  changes.tell('account', { accountId: id });
}

/** A series of a page, as it is and as rules make it. */
export interface TriedSeries {
  readonly from: string;
  /** Null where it is left out. */
  readonly to: string | null;
}

/** What came of trying pages. */
export interface TriedPages {
  /** How many pages there are, and the first of them. */
  readonly count: number;
  readonly pages: readonly ListedPage[];
  /** The page that was read; null where there is none. */
  readonly reading: (TargetReading & { readonly series: number; readonly stored: number }) | null;
  readonly series: readonly TriedSeries[];
}

/** Series that are shown of a page, and pages of a list. */
const mostSeries = 300;
const mostPages = 200;

/**
 * Tries what an account would read, storing nothing: lists its pages, and reads one of them.
 *
 * @param secret what signs in; empty for the one of the account, where there is one
 * @param wanted the name of the page to be read; the first by default
 * @throws Refusal where the list cannot be read
 */
export async function tryPages(
  managing: ManagingPages,
  {
    definition,
    secret,
    accountId
  }: { readonly definition: Targets; readonly secret: string; readonly accountId: number | null },
  wanted: string | null
): Promise<TriedPages> {
  const { config } = managing;
  refuseBrokenAuthority(definition);
  if (secret !== '') refuseUnusableSecret(definition, secret);
  const caller: PageCaller = pageCaller(config.reach, {
    ...{ signIn: definition.signIn, authority: definition.authority },
    secret: secret !== '' ? secret : await storedSecret(managing, definition, accountId)
  });
  const pages = await listPages(definition, caller, config.targetFolder);
  const page = pages.find(({ name }) => name === wanted) ?? pages[0];
  const listed = { count: pages.length, pages: pages.slice(0, mostPages) };
  if (page === undefined) return { ...listed, reading: null, series: [] };
  const { patienceSeconds, rules } = definition;
  const whole = await readTarget(managing, caller, page, { patienceSeconds, rules: [] });
  const own = whole.received.series.filter(({ metric }) => !metric.name.startsWith('target.'));
  const applied = applyingRules(rules);
  const series = own.map((one): TriedSeries => {
    const { metric, labels } = one;
    const ruled = applied({ metric: metric.name, labels });
    return {
      from: seriesText(metric.name, labels),
      to: ruled === null ? null : seriesText(ruled.metric, ruled.labels)
    };
  });
  const stored = new Set(series.flatMap(({ to }) => (to === null ? [] : [to]))).size;
  return {
    ...listed,
    reading: { ...whole.reading, series: series.length, stored },
    series: series.slice(0, mostSeries)
  };
}

/** The secret of an account, for the way to sign in for which it was entered. */
async function storedSecret(managing: ManagingPages, definition: Targets, accountId: number | null): Promise<string> {
  if (accountId === null || definition.signIn.by === 'nothing') return '';
  const account = await requirePages(managing, accountId);
  if (account.sealedSecret.length === 0 || account.definition.signIn.by !== definition.signIn.by) return '';
  refuseForeignHosts(account, definition);
  return managing.secrets.open(account.sealedSecret);
}

/** Nobody sees a secret by having it sent elsewhere: for another address it is entered again. */
function refuseForeignHosts(account: PageAccount, definition: Targets): void {
  const known = hostsOf(account.definition);
  const foreign = [...hostsOf(definition)].find((host) => !known.has(host));
  if (foreign !== undefined)
    throw new Refusal(
      'invalid',
      `The secret of ${account.name} has not been sent to ${foreign} before.`,
      'Enter the secret again, so that it is sent there.',
      { path: ['secret'] }
    );
}

/** Where a definition has Bussola call: each host with its port and way. */
const hostsOf = ({ find }: Targets): Set<string> =>
  new Set(
    (find.by === 'list'
      ? find.targets.map(({ url }) => url)
      : find.by === 'http'
        ? [find.url]
        : [`file:${find.file}`]
    ).map((url) => (url.startsWith('file:') ? url : new URL(url).origin))
  );

/** Refuses a secret that is missing or cannot be sent as it is, and certificates that are none: each page would fail for it, and what a failure says may hold it. */
function refuseUnusableSecret({ signIn }: Targets, secret: string): void {
  if (signIn.by === 'nothing') return;
  if (secret === '')
    throw refusedSecret(
      'What signs in at the pages is missing.',
      'Enter it; it is sealed at once and never shown again.'
    );
  if ((signIn.by === 'bearer' || signIn.by === 'header') && !/^[\x21-\x7e]+(?: [\x21-\x7e]+)*$/.test(secret))
    throw refusedSecret(
      'The secret has characters that cannot stand in a header.',
      'Enter it without line breaks, letters with accents, and spaces at its ends.'
    );
  if (signIn.by !== 'certificate') return;
  const [fault] = certificateFaults(signIn.certificate, secret);
  if (fault !== undefined)
    throw refusedSecret(
      `The ${fault.of} of the client ${fault.why}.`,
      'Enter both as PEM, with the lines that begin and end them.'
    );
}

function refuseBrokenAuthority({ authority }: Targets): void {
  if (authority !== undefined && !isCertificate(authority))
    throw new Refusal(
      'invalid',
      'The authority is no certificate (PEM).',
      'Enter it with the lines that begin and end it, or leave it out.',
      { path: ['definition', 'authority'] }
    );
}

const refusedSecret = (message: string, remedy: string): Refusal =>
  new Refusal('invalid', message, remedy, { path: ['secret'] });

/** Where an account reads, for the list of accounts. */
function addressOf({ find }: Targets): string {
  if (find.by === 'http') return find.url;
  return find.by === 'file' ? find.file : (find.targets[0]?.url ?? '');
}

const seriesText = (metric: string, labels: Readonly<Record<string, string>>): string => {
  const pairs = Object.entries(labels).map(([name, value]) => `${name}=${JSON.stringify(value)}`);
  return pairs.length === 0 ? metric : `${metric} ${pairs.join(' ')}`;
};
