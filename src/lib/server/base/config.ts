import { Refusal } from '$lib/core/problem/problem';
import { z } from 'zod';

const schema = z.object({
  /** Folder of everything Bussola stores. */
  BUSSOLA_DATA: z.string().min(1).default('bussola-data'),
  /** A PostgreSQL server to use instead of the embedded database. */
  DATABASE_URL: z.string().optional(),
  /** Bussola's own address, for links in messages. */
  ORIGIN: z.url().default('http://localhost:3000'),
  /** Other addresses at which it is served as well, parted by commas, such as http://127.0.0.1:4300. */
  BUSSOLA_ALSO_AT: z.string().default(''),
  /** Addresses of proxies whose word on where a request comes from is taken (X-Forwarded-For): single ones or ranges such as 10.0.0.0/8, parted by commas. */
  BUSSOLA_PROXIES: z.string().default(''),
  /** Addresses of this machine and of private networks that accounts may name, single ones or ranges, parted by commas. No others are called. */
  BUSSOLA_REACH: z.string().default(''),
  BUSSOLA_SMTP: z.string().startsWith('smtp').default('smtp://127.0.0.1:4302'),
  BUSSOLA_MAIL_FROM: z.string().default('Bussola <bussola@example.test>'),
  /** A gateway that sends text messages, and what signs in there. */
  BUSSOLA_TEXT_GATEWAY: z.url({ protocol: /^https?$/ }).optional(),
  BUSSOLA_TEXT_TOKEN: z.string().default(''),
  /** Where a heartbeat is posted once a minute: whoever expects it notices when Bussola is gone. */
  BUSSOLA_HEARTBEAT: z.url({ protocol: /^https?$/ }).optional(),
  /** A service that signs people in (OpenID Connect), with what Bussola is called there, its secret, and what people call it. */
  BUSSOLA_ISSUER: z.url({ protocol: /^https?$/ }).optional(),
  BUSSOLA_ISSUER_CLIENT: z.string().default('bussola'),
  BUSSOLA_ISSUER_SECRET: z.string().default(''),
  BUSSOLA_ISSUER_NAME: z.string().default('single sign-on'),
  /** Whether a start without people prints the address at which the first administrator is made. */
  BUSSOLA_FIRST_LINK: z.enum(['print', 'none']).default('print'),
  /** Key for secrets at rest: 32 bytes in base64. Without it a key file is stored in the data folder. */
  BUSSOLA_KEY: z.string().optional(),
  /** A file that holds the present, for tests. */
  BUSSOLA_CLOCK_FILE: z.string().optional(),
  /** Free space below which no samples are taken, MB. The log of the database needs some of it. */
  BUSSOLA_LEAST_FREE: z.coerce.number().int().min(0).max(1_000_000).default(256),
  BUSSOLA_LOG: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('warn'),
  /** How long a provider that failed many times on end is left alone, ms. */
  BUSSOLA_REST_MS: z.coerce.number().int().min(100).max(600_000).default(15_000),
  /** How often it is looked whose lines are due to be read, ms; 0 reads none. */
  BUSSOLA_BILLS_MS: z.coerce.number().int().min(0).max(600_000).default(5000),
  BUSSOLA_LINES_MS: z.coerce.number().int().min(0).max(600_000).default(1000),
  /** Ports at which syslog is taken, plain and over TLS; none unless they are set. */
  BUSSOLA_SYSLOG_PORT: z.coerce.number().int().min(0).max(65_535).optional(),
  BUSSOLA_SYSLOG_TLS_PORT: z.coerce.number().int().min(0).max(65_535).optional(),
  BUSSOLA_SYSLOG_HOST: z.string().default('0.0.0.0'),
  /** A key of Bussola that may send logs: what comes by syslog is of its account. */
  BUSSOLA_SYSLOG_KEY: z.string().optional(),
  /** Files (PEM) with the certificate of the TLS port and its key. */
  BUSSOLA_SYSLOG_CERT: z.string().optional(),
  BUSSOLA_SYSLOG_CERT_KEY: z.string().optional(),
  /** How long closing may take before the process is ended, ms: less than whoever stops it waits. */
  BUSSOLA_CLOSING_MS: z.coerce.number().int().min(1_000).max(600_000).default(25_000),
  /** Days of history that are requested for a new account. */
  BUSSOLA_HISTORY_DAYS: z.coerce.number().int().min(0).max(400).default(14)
});

export interface Config {
  readonly data: string;
  readonly databaseUrl: string | null;
  readonly origin: string;
  /** All addresses at which it is served, its own first. */
  readonly origins: readonly string[];
  readonly proxies: readonly string[];
  readonly reach: readonly string[];
  readonly smtpUrl: string;
  readonly mailFrom: string;
  /** Where a heartbeat is posted once a minute; null for nowhere. */
  readonly heartbeat: string | null;
  /** The gateway for text messages; null for none. */
  readonly gateway: { readonly url: string; readonly token: string } | null;
  /** A service that signs people in; null for none. */
  readonly issuer: {
    readonly url: string;
    readonly clientId: string;
    readonly clientSecret: string;
    readonly name: string;
  } | null;
  readonly printsFirstLink: boolean;
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

/**
 * Reads the configuration from environment variables.
 *
 * @throws Refusal naming the variable
 * @example configFrom({ BUSSOLA_DATA: '/tmp/b' }).data // '/tmp/b'
 */
export function configFrom(environment: Readonly<Record<string, string | undefined>>): Config {
  const read = schema.safeParse(environment);
  if (!read.success) {
    const issue = read.error.issues[0];
    throw new Refusal(
      'configuration',
      `The environment variable ${issue?.path.join('.')} is not usable: ${issue?.message}.`,
      'Correct it or leave it out.'
    );
  }
  const values = read.data;
  return {
    data: values.BUSSOLA_DATA,
    databaseUrl: values.DATABASE_URL ?? null,
    origin: values.ORIGIN.replace(/\/$/, ''),
    origins: [values.ORIGIN, ...listOf(values.BUSSOLA_ALSO_AT)].map((origin) => origin.replace(/\/$/, '')),
    proxies: listOf(values.BUSSOLA_PROXIES),
    reach: listOf(values.BUSSOLA_REACH),
    smtpUrl: values.BUSSOLA_SMTP,
    mailFrom: values.BUSSOLA_MAIL_FROM,
    heartbeat: values.BUSSOLA_HEARTBEAT ?? null,
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
    printsFirstLink: values.BUSSOLA_FIRST_LINK === 'print',
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
