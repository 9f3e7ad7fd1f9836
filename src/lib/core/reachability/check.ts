import { z } from 'zod';
import type { StoredForm } from '../forms/stored';

/** Seconds between two attempts that people choose from. */
export const intervalSeconds = [15, 30, 60, 300, 600, 1800] as const;
/** Retries before a check is down, at most. */
export const mostRetries = 5;

const host = z
  .string()
  .trim()
  .min(1, { error: 'Enter a host name or an address.' })
  .max(253)
  .regex(/^[A-Za-z0-9._:-]+$/, { error: 'A host has letters, digits, dots, colons and hyphens only.' });
const port = z.int().min(1).max(65_535);

const httpTarget = z
  .strictObject({
    kind: z.literal('http'),
    url: z
      .url({ protocol: /^https?$/, error: 'Enter an address that begins with http:// or https://.' })
      .max(2000)
      .refine((text) => !hasCredentials(text), {
        error: 'Leave the name and password out of the address: everybody who may see the check would see them.'
      }),
    method: z.enum(['GET', 'HEAD']).default('GET'),
    /** Codes that count as an answer, such as `200`, or `2xx` for all of a hundred. */
    statuses: z
      .array(z.string().regex(/^[1-5](\d\d|xx)$/, { error: 'A status is such as 200, or 2xx for all of a hundred.' }))
      .min(1, { error: 'Enter at least one status.' })
      .max(20)
      .default(['2xx']),
    /** What the body has to contain, letter case and all; empty for nothing. */
    contains: z.string().max(500).default(''),
    /** Whether the certificate has to be one that this machine trusts. */
    trusted: z.boolean().default(true)
  })
  .refine(({ method, contains }) => method === 'GET' || contains === '', {
    error: 'An answer to HEAD has no words: ask by GET, or expect none.',
    path: ['contains']
  });

const tcpTarget = z.strictObject({
  kind: z.literal('tcp'),
  host,
  port,
  /** Whether a TLS handshake follows the connection. */
  secure: z.boolean().default(false),
  trusted: z.boolean().default(true)
});

/** Kinds of DNS records that are looked up. */
export const recordKinds = ['A', 'AAAA', 'CNAME', 'MX', 'NS', 'TXT'] as const;
export type RecordKind = (typeof recordKinds)[number];

const dnsTarget = z.strictObject({
  kind: z.literal('dns'),
  name: host,
  record: z.enum(recordKinds).default('A'),
  /** What one of the answers has to be; empty for any. */
  is: z.string().trim().max(500).default(''),
  /** Address and, if it is not 53, port of the name server; empty for those of this machine. */
  server: z
    .string()
    .trim()
    .regex(/^(|[0-9.]+(:\d{1,5})?|\[?[0-9a-fA-F:.]+\]?(:\d{1,5})?)$/, {
      error: 'A name server is an address such as 192.0.2.53, or 192.0.2.53:5353.'
    })
    .max(60)
    .default('')
});

/** What a check looks at. */
export const targetSchema = z.discriminatedUnion('kind', [httpTarget, tcpTarget, dnsTarget]);
export type Target = z.infer<typeof targetSchema>;
export type TargetKind = Target['kind'];
export const targetKinds = ['http', 'tcp', 'dns'] as const satisfies readonly TargetKind[];

/**
 * A reachability check: a request that Bussola makes itself on a schedule.
 *
 * @example
 * checkSchema.parse({ name: 'Ticket site', target: { kind: 'http', url: 'https://tickets.example.test/' } }).every // 60
 */
export const checkSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the check a name: alarms and charts show it.' }).max(120),
  enabled: z.boolean().default(true),
  target: targetSchema,
  /** Seconds from one attempt to the next. */
  every: z.int().min(15, { error: 'A check runs at most once in 15 seconds.' }).max(1800).default(60),
  /** Seconds within which the whole answer has to be there. */
  within: z.int().min(1).max(30).default(10),
  /** Attempts that are made again before the check counts as down. */
  retries: z.int().min(0).max(mostRetries).default(2)
});
export type Check = z.infer<typeof checkSchema>;

/** How checks are stored. */
export const checkForm: StoredForm<Check> = { what: 'The check', version: 1, schema: checkSchema, upgrades: [] };

/** A target to begin with, by its kind. @example emptyTarget('tcp') // { kind: 'tcp', host: '', port: 443, … } */
export function emptyTarget(kind: TargetKind): Target {
  switch (kind) {
    case 'http':
      return { kind, url: 'https://', method: 'GET', statuses: ['2xx'], contains: '', trusted: true };
    case 'tcp':
      return { kind, host: '', port: 443, secure: false, trusted: true };
    case 'dns':
      return { kind, name: '', record: 'A', is: '', server: '' };
    default:
      throw new TypeError(`emptyTarget: unknown ${JSON.stringify(kind satisfies never)}`);
  }
}

/** Whether an HTTP status is among those expected. @example isExpected(204, ['2xx']) // true */
export const isExpected = (status: number, statuses: readonly string[]): boolean =>
  statuses.some((one) => (one.endsWith('xx') ? Math.floor(status / 100) === Number(one[0]) : status === Number(one)));

function hasCredentials(text: string): boolean {
  try {
    const { username, password } = new URL(text);
    return username !== '' || password !== '';
  } catch {
    return false; // no address at all, which is said already
  }
}
