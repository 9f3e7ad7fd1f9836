import { accessSync, constants, existsSync, readFileSync, statSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { Refusal } from '$lib/core/problem/problem';
import { certificateFaults } from '../base/certificates';
import { configFrom, unusable, type Config, type SettingFault } from '../base/config';
import { settingNames } from '../base/setting-names';
import { readSettings, unknownSetting } from '../base/settings-file';

type Environment = Readonly<Record<string, string | undefined>>;

/** What Bussola starts with. */
export interface Settings {
  readonly config: Config;
  /** The settings of the file that the environment does not override, to be put into it. */
  readonly fromFile: Readonly<Record<string, string>>;
  /** Names in the environment that look like settings and are none. */
  readonly warnings: readonly string[];
}

/** Variables of Bussola's that are no settings: where its file is, where its shell client finds it, and what its tests use. */
const otherNames = [
  'BUSSOLA_CONFIG',
  'BUSSOLA_ROOT',
  'BUSSOLA_URL',
  'BUSSOLA_NAME',
  'BUSSOLA_PASSWORD',
  'BUSSOLA_KILL_AT',
  'BUSSOLA_MOVE_TO',
  'BUSSOLA_PROGRAM_KEY'
];

/**
 * Reads the settings of the environment and of a file, and looks at what they name: certificates, keys and the data folder. What the environment says counts before what the file says.
 *
 * @param file null for none
 * @throws Refusal naming every fault
 * @example settingsFrom(process.env, '/etc/bussola/bussola.conf').config.port // 3000
 */
export function settingsFrom(environment: Environment, file: string | null): Settings {
  const read = file === null ? { values: {}, faults: [] } : readSettings(textOf(file), file);
  const fromFile = Object.fromEntries(
    Object.entries(read.values).filter(([name]) => settingNames.includes(name) && (environment[name] ?? '') === '')
  );
  const { config, faults } = configOrFaults({ ...environment, ...fromFile });
  const all = [...read.faults, ...faults, ...(config === null ? [] : filesFaults(config))];
  if (config === null || all.length > 0) throw unusable(all);
  const warnings = Object.keys(environment)
    .filter((name) => name.startsWith('BUSSOLA_') && !settingNames.includes(name) && !otherNames.includes(name))
    .filter((name) => !name.startsWith('BUSSOLA_TEST_'))
    .map(unknownSetting);
  return { config, fromFile, warnings };
}

function textOf(file: string): string {
  try {
    return readFileSync(file, 'utf8');
  } catch (error) {
    throw new Refusal(
      'configuration',
      `The settings file ${file} cannot be read: ${(error as Error).message}.`,
      'Check its path and who may read it.'
    );
  }
}

function configOrFaults(environment: Environment): { config: Config | null; faults: SettingFault[] } {
  try {
    return { config: configFrom(environment), faults: [] };
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return { config: null, faults: (error.cause as SettingFault[] | undefined) ?? [] };
  }
}

const filesFaults = ({ tls, syslog, data, clockFile }: Config): SettingFault[] => [
  ...filesOfCertificate('BUSSOLA_TLS_CERT', tls?.cert ?? null, 'BUSSOLA_TLS_KEY', tls?.key ?? null),
  ...filesOfCertificate(
    ...(['BUSSOLA_SYSLOG_CERT', syslog.certificate, 'BUSSOLA_SYSLOG_CERT_KEY', syslog.certificateKey] as const)
  ),
  ...folderFaults(data),
  ...(clockFile !== null && !existsSync(clockFile)
    ? [{ name: 'BUSSOLA_CLOCK_FILE', why: `${clockFile} does not exist` }]
    : [])
];

/** What is wrong with the files of a certificate and its key. */
function filesOfCertificate(
  certName: string,
  cert: string | null,
  keyName: string,
  key: string | null
): SettingFault[] {
  if (cert === null || key === null) return [];
  const [certificate, privateKey] = [contentOf(certName, cert), contentOf(keyName, key)];
  if ('why' in certificate || 'why' in privateKey)
    return [certificate, privateKey].flatMap((one) => ('why' in one ? [one] : []));
  return certificateFaults(certificate.bytes, privateKey.bytes).map(({ of, why }) => ({
    name: of === 'key' ? keyName : certName,
    why
  }));
}

function contentOf(name: string, path: string): { readonly bytes: Buffer } | SettingFault {
  try {
    return { bytes: readFileSync(path) };
  } catch (error) {
    return { name, why: `cannot be read (${(error as Error).message})` };
  }
}

/** The folder itself, or where it is to be made. */
function folderFaults(data: string): SettingFault[] {
  let folder = resolve(data);
  while (!existsSync(folder)) folder = dirname(folder);
  if (!statSync(folder).isDirectory()) return [{ name: 'BUSSOLA_DATA', why: `${folder} is no folder` }];
  try {
    accessSync(folder, constants.W_OK | constants.X_OK);
    return [];
  } catch {
    return [{ name: 'BUSSOLA_DATA', why: `this user may not write in ${folder}` }];
  }
}
