// npm run backup, restore, move: everything that a Bussola stores, to a file and back.
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { Refusal } from '$lib/core/problem/problem';
import { backUp } from '../backup/back-up';
import { backupName } from '../backup/backup-folder';
import type { OnProgress } from '../backup/file/format';
import { restoreBackup, type Restored } from '../backup/file/restore-backup';
import { systemClock } from '../base/clock';
import { configFrom, type Config } from '../base/config';
import { version } from '../base/version';
import { connectionFault } from '../db/connection-faults';
import type { DataFolder } from '../db/folder';
import type { Database } from '../db/pool';
import { examineAll, sizeWords } from '../doctor/examine-all';
import { openSecrets } from '../doctor/open-secrets';
import { newEmbedded, openSource, server, takeFolder, takeKey } from './data-homes';
import { settingsFrom } from './settings';

const usage = `npm run backup -- [--to FILE] [--key-to FILE]
    Backs up what this Bussola stores, while it runs or not. The key of its secrets is no part of it: --key-to copies it.
npm run restore -- --from FILE [--key FILE]
    Restores a backup into the data folder or database that the settings name, which must be empty.
npm run move -- --to FOLDER|postgres://…
    Moves what is stored to another data folder or database, which must be empty. Stop Bussola first.
    BUSSOLA_MOVE_TO says the same as --to, for an address with a password.
Settings are those of Bussola: --config FILE, --data FOLDER, or the environment.
`;

/** What ends with a reason and needs no stack. */
class Misuse extends Error {}

/** What the last line says, so that it is not said again. */
let shown = '';

interface Flags {
  readonly to?: string;
  readonly from?: string;
  readonly key?: string;
  readonly 'key-to'?: string;
}

async function backup(config: Config, flags: Flags): Promise<boolean> {
  const madeAt = systemClock.now();
  const file = resolve(flags.to ?? join(config.backups, backupName(madeAt)));
  if (existsSync(file)) throw new Misuse(`${file} is there already.`);
  const source = await openSource(config);
  if (source.isUsed && source.database !== null) tell('A Bussola uses the folder: it is backed up beside it.');
  try {
    const { rows, tables, bytes, pausedMs } = await backUp(
      source,
      file,
      join(dirname(file), `.work-${process.pid}`),
      { bussola: version, madeAt },
      said
    );
    tell(`${rows.toLocaleString('en')} rows of ${tables} tables in ${file}, ${(bytes / 1e6).toFixed(1)} MB.`);
    if (pausedMs > 0) tell(`Statements waited for it for ${pausedMs} ms.`);
  } finally {
    await source.close();
  }
  if (flags['key-to'] === undefined) tell(keyReminder(config));
  else copyKey(config, flags['key-to']);
  return true;
}

const keyReminder = ({ key, data }: Config): string =>
  key === null
    ? `What is secret in it opens with the key in ${resolve(data, 'key')} alone. Store a copy of that apart from it.`
    : 'What is secret in it opens with BUSSOLA_KEY alone. Store that apart from it.';

function copyKey({ key, data }: Config, to: string): void {
  if (existsSync(to)) throw new Misuse(`${to} is there already.`);
  const text = key ?? readFileSync(resolve(data, 'key'), 'utf8');
  writeFileSync(to, text, { mode: 0o600, flag: 'wx' });
  tell(`The key is in ${resolve(to)}. Store it apart from the backup.`);
}

async function restore(config: Config, flags: Flags): Promise<boolean> {
  if (flags.from === undefined) throw new Misuse('Name the file: --from FILE.');
  const from = resolve(flags.from);
  return into(config, (db) => restoreBackup(db, from, said), flags.key);
}

async function move(config: Config, flags: Flags): Promise<boolean> {
  // An address with a password is better not among the arguments, which others on the machine may read.
  const to = flags.to ?? process.env['BUSSOLA_MOVE_TO'];
  if (to === undefined) throw new Misuse('Say where to: --to FOLDER, --to postgres://…, or BUSSOLA_MOVE_TO.');
  const isServer = /^postgres(ql)?:/.test(to);
  const target = configFrom({
    BUSSOLA_DATA: isServer ? config.data : to,
    ...(isServer && { DATABASE_URL: to })
  });
  if (!isServer && config.databaseUrl === null && resolve(to) === resolve(config.data))
    throw new Misuse('That is where it is.');
  const file = join(config.backups, `move-${process.pid}.tar.gz`);
  try {
    tell('Backs it up first.');
    const source = await openSource(config, false);
    const about = { bussola: version, madeAt: systemClock.now() };
    await backUp(source, file, join(config.backups, `.work-${process.pid}`), about, said).finally(() => source.close());
    const isSound = await into(
      { ...target, key: config.key },
      (db) => restoreBackup(db, file, said),
      config.key === null ? resolve(config.data, 'key') : undefined
    );
    if (isSound)
      tell(
        isServer
          ? 'Set DATABASE_URL to that database, and start Bussola. What is in the data folder is as it was.'
          : `Set BUSSOLA_DATA to ${resolve(to)}, leave out DATABASE_URL, and start Bussola. What is in the old place is as it was.`
      );
    return isSound;
  } finally {
    rmSync(file, { force: true });
  }
}

/**
 * Restores into the database that settings name, and says what it holds then.
 *
 * @param keyFile the key of the secrets, for a data folder that has none yet
 * @returns whether nothing is wrong with it
 */
async function into(
  { data, databaseUrl, key }: Config,
  work: (db: Database) => Promise<Restored>,
  keyFile: string | undefined
): Promise<boolean> {
  const folder = takeFolder(data);
  try {
    const target = databaseUrl === null ? await newEmbedded(folder) : server(databaseUrl);
    let isSound = false;
    try {
      const { rows, tables, migrated, about } = await work(target.db);
      if (keyFile !== undefined) takeKey(folder, keyFile);
      isSound = await examined(target.db, folder, key);
      const words = [
        `${rows.toLocaleString('en')} rows of ${tables} tables are back, as they were on ${new Date(about.madeAt).toISOString()}; each was compared.`
      ];
      if (migrated.length > 0)
        words.push(`They were of an earlier Bussola: ${migrated.length} migrations were applied.`);
      tell(words.join('\n'));
    } catch (error) {
      await target.close();
      target.drop();
      throw error;
    }
    await target.close();
    target.settle();
    folder.markVersion();
    return isSound;
  } finally {
    folder.release();
  }
}

async function examined(db: Database, folder: DataFolder, key: string | null): Promise<boolean> {
  said({ doing: 'Looks all of it through', share: null });
  const found = await examineAll(db);
  for (const words of sizeWords(found)) tell(words);
  for (const what of found.findings) tell(`! ${what}`);
  try {
    await openSecrets(db, folder.path, key);
    tell('Its secrets open with this key.');
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    tell(`! ${error.message}\n  ${error.remedy}`);
    return false;
  }
  tell(found.findings.length === 0 ? 'Nothing is wrong with it.' : `${found.findings.length} findings.`);
  return found.findings.length === 0;
}

function tell(text: string): void {
  wipe();
  process.stdout.write(`${text}\n`);
}

/** How far it is: a line that is written over on a terminal; elsewhere, each tenth. */
function said(...[{ doing, share }]: Parameters<OnProgress>): void {
  const percent = share === null ? '' : ` ${Math.floor(share * 100)} %`;
  const step = `${doing.split(' ')[0]}${share === null ? doing : Math.floor(share * 10)}`;
  if (process.stdout.isTTY) {
    process.stdout.write(`\r\u001b[K${doing}${percent}`);
    shown = step;
  } else if (step !== shown) {
    shown = step;
    process.stdout.write(`${doing}${percent}\n`);
  }
}

function wipe(): void {
  if (process.stdout.isTTY && shown !== '') process.stdout.write('\r\u001b[K');
  shown = '';
}

// Last, so that all of the above is there.
try {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: Object.fromEntries(
      ['config', 'data', 'to', 'from', 'key', 'key-to'].map((name) => [name, { type: 'string' as const }])
    )
  });
  const flags = values as Flags & { readonly config?: string; readonly data?: string };
  const { config: given } = settingsFrom(process.env, flags.config ?? process.env['BUSSOLA_CONFIG'] ?? null);
  const config =
    flags.data === undefined ? given : { ...given, data: flags.data, backups: join(flags.data, 'backups') };
  const commands: Readonly<Record<string, (config: Config, flags: Flags) => Promise<boolean>>> = {
    backup,
    restore,
    move
  };
  const command = commands[positionals[0] ?? ''];
  if (command === undefined || positionals.length !== 1) throw new Misuse('There is no such command.');
  process.exitCode = (await command(config, flags)) ? 0 : 1;
} catch (error) {
  process.exitCode = 2;
  const unreachable = error instanceof Refusal ? error : connectionFault(error);
  if (unreachable !== null) process.stderr.write(`${unreachable.message}\n${unreachable.remedy}\n`);
  else if (error instanceof Misuse || (error as { code?: string }).code?.startsWith('ERR_PARSE_ARGS'))
    process.stderr.write(`${(error as Error).message}\n${usage}`);
  else throw error;
}
