import { join } from 'node:path';
import { Refusal } from '$lib/core/problem/problem';
import { countOf } from '$lib/core/words/count';
import type { z } from 'zod';
import { AddressRanges } from './address-ranges';
import { headersOf, secretSettings, secretsOf, settingNames, settings } from './setting-names';

export interface Config {
  /** Everything secret in the settings, to be left out of whatever is logged. */
  readonly secrets: readonly string[];
  readonly host: string;
  readonly port: number;
  /** Files with the certificate by which it is served and its key; null for plain HTTP. */
  readonly tls: { readonly cert: string; readonly key: string } | null;
  /** What this process is called among several. */
  readonly instance: string;
  /** What this process does. */
  readonly role: 'web' | 'engine' | 'all';
  readonly data: string;
  /** Where the files of backups are. */
  readonly backups: string;
  readonly databaseUrl: string | null;
  readonly origin: string;
  /** All addresses at which it is served, its own first. */
  readonly origins: readonly string[];
  readonly proxies: readonly string[];
  readonly reach: readonly string[];
  /** The folder of files with lists of OpenMetrics pages; null for none. */
  readonly targetFolder: string | null;
  /** The mail server; null for none. */
  readonly smtpUrl: string | null;
  readonly mailFrom: string;
  /** Where a heartbeat is posted once a minute; null for nowhere. */
  readonly heartbeat: string | null;
  /** Where figures and traces of Bussola itself are sent; null for nowhere. */
  readonly telemetry: Telemetry | null;
  /** The gateway for text messages; null for none. */
  readonly gateway: { readonly url: string; readonly token: string } | null;
  /** A service that signs people in; null for none. */
  readonly issuer: {
    readonly url: string;
    readonly clientId: string;
    readonly clientSecret: string;
    readonly name: string;
  } | null;
  readonly firstLink: 'print' | 'file' | 'none';
  readonly key: string | null;
  readonly clockFile: string | null;
  /** Free bytes on the disk of the data folder below which no samples are taken. */
  readonly leastFree: number;
  readonly logLevel: string;
  readonly restMs: number;
  /** How often it is looked whose lines are due to be read, ms; 0 for never. */
  readonly linesMs: number;
  /** How often it is looked whose bills are due to be read, ms; 0 for never. */
  readonly billsMs: number;
  readonly syslog: {
    readonly host: string;
    /** Plain and over TLS; null for none. */
    readonly port: number | null;
    readonly securePort: number | null;
    /** Files with the certificate and its key. */
    readonly certificate: string | null;
    readonly certificateKey: string | null;
    readonly key: string | null;
  };
  readonly closingMs: number;
  readonly historyDays: number;
}

/** Where figures and traces are sent by OTLP. */
export interface Telemetry {
  /** Before `/v1/metrics` and `/v1/traces`. */
  readonly url: string;
  readonly headers: Readonly<Record<string, string>>;
  /** Which share of traces, from 0 to 1. */
  readonly share: number;
}

/** A setting that cannot be used. */
export interface SettingFault {
  readonly name: string;
  readonly why: string;
}

/**
 * Reads the configuration from environment variables; an empty one counts as left out.
 *
 * @throws Refusal naming every variable that cannot be used
 * @example configFrom({ BUSSOLA_DATA: '/tmp/b' }).data // '/tmp/b'
 */
export function configFrom(environment: Readonly<Record<string, string | undefined>>): Config {
  const set = Object.fromEntries(
    settingNames.map((name) => [name, environment[name] === '' ? undefined : environment[name]])
  );
  const read = settings.safeParse(set);
  const faults = [
    ...(read.error?.issues ?? []).map(({ path, message }) => ({
      name: String(path[0]),
      why: `${message.charAt(0).toLowerCase()}${message.slice(1)}${shown(String(path[0]), set[String(path[0])])}`
    })),
    ...rangeFaults(set),
    ...pairFaults(set)
  ];
  if (!read.success || faults.length > 0) throw unusable(faults);
  return configOf(read.data);
}

/** Why Bussola does not start with its settings. @example unusable([{ name: 'PORT', why: 'must be a number' }]).message */
export const unusable = (faults: readonly SettingFault[]): Refusal =>
  new Refusal(
    'configuration',
    `${countOf(faults.length, 'setting')} cannot be used:\n${faults.map(({ name, why }) => `  ${name}: ${why}`).join('\n')}`,
    'Correct them in the environment or in the settings file, then start again.',
    { cause: faults }
  );

const shown = (name: string, value: string | undefined): string =>
  value === undefined || secretSettings.includes(name) ? '' : `, got ${JSON.stringify(value.slice(0, 80))}`;

type Set = Readonly<Record<string, string | undefined>>;

function rangeFaults(set: Set): SettingFault[] {
  return ['BUSSOLA_PROXIES', 'BUSSOLA_REACH'].flatMap((name) =>
    listOf(set[name] ?? '').flatMap((range) => {
      try {
        new AddressRanges([range], name);
        return [];
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        return [{ name, why: `${range} is neither an address nor a range such as 10.0.0.0/8` }];
      }
    })
  );
}

/** Settings of which one asks for the other. */
const pairs: readonly (readonly [string, string])[] = [
  ['BUSSOLA_TLS_CERT', 'BUSSOLA_TLS_KEY'],
  ['BUSSOLA_TLS_KEY', 'BUSSOLA_TLS_CERT'],
  ['BUSSOLA_SYSLOG_CERT', 'BUSSOLA_SYSLOG_CERT_KEY'],
  ['BUSSOLA_SYSLOG_CERT_KEY', 'BUSSOLA_SYSLOG_CERT'],
  ['BUSSOLA_SYSLOG_TLS_PORT', 'BUSSOLA_SYSLOG_CERT']
];

const pairFaults = (set: Set): SettingFault[] => [
  ...pairs.flatMap(([name, needed]) =>
    set[name] !== undefined && set[needed] === undefined ? [{ name: needed, why: `is needed with ${name}` }] : []
  ),
  ...(['web', 'engine'].includes(set['BUSSOLA_ROLE'] ?? '')
    ? ['DATABASE_URL', 'BUSSOLA_KEY'].flatMap((name) =>
        set[name] === undefined
          ? [{ name, why: `is needed where BUSSOLA_ROLE is ${set['BUSSOLA_ROLE']}: several processes share it` }]
          : []
      )
    : []),
  ...(set['BUSSOLA_TLS_CERT'] !== undefined && set['ORIGIN']?.startsWith('https:') !== true
    ? [{ name: 'ORIGIN', why: 'must begin with https:// where BUSSOLA_TLS_CERT is set' }]
    : [])
];

function configOf(values: z.output<typeof settings>): Config {
  const origin = (values.ORIGIN ?? `http://localhost:${values.PORT}`).replace(/\/$/, '');
  return {
    secrets: secretsOf(values),
    host: values.HOST,
    port: values.PORT,
    tls:
      values.BUSSOLA_TLS_CERT === undefined || values.BUSSOLA_TLS_KEY === undefined
        ? null
        : { cert: values.BUSSOLA_TLS_CERT, key: values.BUSSOLA_TLS_KEY },
    instance: values.BUSSOLA_INSTANCE,
    role: values.BUSSOLA_ROLE,
    data: values.BUSSOLA_DATA,
    backups: values.BUSSOLA_BACKUPS ?? join(values.BUSSOLA_DATA, 'backups'),
    databaseUrl: values.DATABASE_URL ?? null,
    origin,
    origins: [origin, ...listOf(values.BUSSOLA_ALSO_AT).map((other) => other.replace(/\/$/, ''))],
    proxies: listOf(values.BUSSOLA_PROXIES),
    reach: listOf(values.BUSSOLA_REACH),
    targetFolder: values.BUSSOLA_TARGETS ?? null,
    smtpUrl: values.BUSSOLA_SMTP ?? null,
    mailFrom: values.BUSSOLA_MAIL_FROM,
    heartbeat: values.BUSSOLA_HEARTBEAT ?? null,
    telemetry:
      values.BUSSOLA_OTLP === undefined
        ? null
        : {
            url: values.BUSSOLA_OTLP.replace(/\/+$/, ''),
            headers: headersOf(values.BUSSOLA_OTLP_HEADERS) ?? {},
            share: values.BUSSOLA_TRACE_SHARE
          },
    gateway:
      values.BUSSOLA_TEXT_GATEWAY === undefined
        ? null
        : { url: values.BUSSOLA_TEXT_GATEWAY, token: values.BUSSOLA_TEXT_TOKEN },
    issuer:
      values.BUSSOLA_ISSUER === undefined
        ? null
        : {
            url: values.BUSSOLA_ISSUER,
            clientId: values.BUSSOLA_ISSUER_CLIENT,
            clientSecret: values.BUSSOLA_ISSUER_SECRET,
            name: values.BUSSOLA_ISSUER_NAME
          },
    firstLink: values.BUSSOLA_FIRST_LINK,
    key: values.BUSSOLA_KEY ?? null,
    clockFile: values.BUSSOLA_CLOCK_FILE ?? null,
    leastFree: values.BUSSOLA_LEAST_FREE * 1_000_000,
    logLevel: values.BUSSOLA_LOG,
    restMs: values.BUSSOLA_REST_MS,
    linesMs: values.BUSSOLA_LINES_MS,
    billsMs: values.BUSSOLA_BILLS_MS,
    syslog: {
      host: values.BUSSOLA_SYSLOG_HOST,
      port: values.BUSSOLA_SYSLOG_PORT ?? null,
      securePort: values.BUSSOLA_SYSLOG_TLS_PORT ?? null,
      certificate: values.BUSSOLA_SYSLOG_CERT ?? null,
      certificateKey: values.BUSSOLA_SYSLOG_CERT_KEY ?? null,
      key: values.BUSSOLA_SYSLOG_KEY ?? null
    },
    closingMs: values.BUSSOLA_CLOSING_MS,
    historyDays: values.BUSSOLA_HISTORY_DAYS
  };
}

const listOf = (text: string): string[] =>
  text
    .split(',')
    .map((one) => one.trim())
    .filter((one) => one !== '');
