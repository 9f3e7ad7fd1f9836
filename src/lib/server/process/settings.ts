import { X509Certificate, createPrivateKey } from 'node:crypto';
import { accessSync, constants, existsSync, readFileSync, statSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { Refusal } from '$lib/core/problem/problem';
import { configFrom, settingNames, unusable, type Config, type SettingFault } from '../base/config';
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
  'BUSSOLA_KILL_AT'
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
  ...certificateFaults('BUSSOLA_TLS_CERT', tls?.cert ?? null, 'BUSSOLA_TLS_KEY', tls?.key ?? null),
  ...certificateFaults(
    ...(['BUSSOLA_SYSLOG_CERT', syslog.certificate, 'BUSSOLA_SYSLOG_CERT_KEY', syslog.certificateKey] as const)
  ),
  ...folderFaults(data),
  ...(clockFile !== null && !existsSync(clockFile)
    ? [{ name: 'BUSSOLA_CLOCK_FILE', why: `${clockFile} does not exist` }]
    : [])
];

function certificateFaults(certName: string, cert: string | null, keyName: string, key: string | null): SettingFault[] {
  if (cert === null || key === null) return [];
  const certificate = attempt(certName, () => new X509Certificate(readFileSync(cert)), 'a certificate (PEM)');
  const privateKey = attempt(keyName, () => createPrivateKey(readFileSync(key)), 'a private key (PEM)');
  const faults = [certificate, privateKey].flatMap((one) => ('why' in one ? [one] : []));
  if ('why' in certificate || 'why' in privateKey) return faults;
  return certificate.value.checkPrivateKey(privateKey.value)
    ? []
    : [{ name: keyName, why: `is not the key of the certificate ${cert}` }];
}

function attempt<Value>(name: string, work: () => Value, what: string): { value: Value } | SettingFault {
  try {
    return { value: work() };
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    const isMissing = code === 'ENOENT' || code === 'EACCES' || code === 'EISDIR';
    return { name, why: isMissing ? `cannot be read (${message})` : `holds no ${what.replace(/^a /, '')}` };
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
