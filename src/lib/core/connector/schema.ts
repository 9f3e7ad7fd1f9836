import { z } from 'zod';
import type { FileForm } from '../forms/file';

/** A file larger than this is no connector, characters. */
export const longestConnector = 100_000;

const expression = z.string().trim().min(1).max(8000).meta({ description: 'A JSONata expression.' });
const variable = z.string().regex(/^[a-zA-Z_][a-zA-Z0-9_]{0,39}$/, {
  error: 'A variable is of letters, digits and _, and begins with a letter.'
});
const path = z
  .string()
  .max(1000)
  .regex(/^\//, { error: 'A path begins with /. It is below the address of the account.' })
  .meta({ description: 'A URI template (RFC 6570) below the address of the account, such as /v1/hosts{?page}.' });
const header = z
  .string()
  .max(100)
  .regex(/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/, { error: 'A header has no spaces or colons in its name.' })
  .refine((name) => !/^(host|content-length|transfer-encoding|connection|cookie)$/i.test(name), {
    error: 'This header is set by the connection itself.'
  });

/** One call to a provider. */
export const requestSchema = z.strictObject({
  method: z.enum(['GET', 'POST']).default('GET'),
  path,
  with: z.record(variable, expression).default({}).meta({
    description: 'What stands in the path: a name, and the expression that gives it. What gives nothing is left out.'
  }),
  headers: z.record(header, expression).default({}),
  body: expression.optional().meta({ description: 'Gives the body, which is sent as JSON.' })
});
export type ConnectorRequest = z.output<typeof requestSchema>;

/** How an answer of several pages goes on. */
export const pagesSchema = z.discriminatedUnion('by', [
  z.strictObject({
    by: z.literal('token'),
    next: expression.meta({ description: 'What stands in $page for the next page; nothing on the last one.' }),
    first: expression
      .optional()
      .meta({ description: 'What stands in $page for the first page; nothing unless it is said.' })
  }),
  z.strictObject({
    by: z.literal('link').meta({ description: 'The header Link of the answer, rel="next" (RFC 8288).' })
  }),
  z.strictObject({
    by: z.literal('number'),
    first: z.int().min(0).max(1).default(1),
    more: expression.meta({ description: 'Whether there is another page.' })
  })
]);
export type ConnectorPages = z.output<typeof pagesSchema>;

const called = { request: requestSchema, pages: pagesSchema.optional() };
const mapped = {
  each: expression.meta({ description: 'The things in an answer.' }),
  map: expression.meta({ description: 'What one of them is here; $answer is the whole answer.' })
};
const listed = { ...called, ...mapped };
/** A list that is called once for each thing of another one. */
const outer = z
  .strictObject({ ...called, each: expression })
  .optional()
  .meta({
    description: 'A list that comes first: the request is made once for each of its things, which is $of then.'
  });

const template = z.string().min(1).max(1000);
/** How a request shows whose it is. Only here stands what is secret, in braces. */
export const connectorSignIn = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('nothing') }),
  z.strictObject({
    by: z.literal('header'),
    header,
    value: template.default('Bearer {secret}').meta({ description: 'With {key} and {secret}.' })
  }),
  z.strictObject({ by: z.literal('basic') }),
  z.strictObject({
    by: z.literal('client-credentials').meta({ description: 'A token for the key and its secret (RFC 6749, 4.4).' }),
    path: path.optional().meta({ description: 'Where tokens are given. Without it, the provider says so (RFC 8414).' }),
    scope: z.string().max(300).optional(),
    sentIn: z.enum(['body', 'header']).default('body')
  }),
  z.strictObject({
    by: z.literal('signature').meta({ description: 'HTTP message signatures (RFC 9421), hmac-sha256.' }),
    label: z
      .string()
      .regex(/^[a-z][a-z0-9_-]{0,30}$/)
      .default('bussola'),
    fields: z.array(z.string().min(1).max(60)).min(1).max(20).default(['@method', '@target-uri', 'content-digest'])
  }),
  z.strictObject({
    by: z.literal('hmac'),
    hash: z.enum(['sha256', 'sha512']).default('sha256'),
    over: template.meta({
      description: 'With {key}, {time}, {method}, {path}, {query}, {body} and {bodyDigest} (in hexadecimal).'
    }),
    time: z.enum(['seconds', 'milliseconds', 'text']).default('seconds'),
    encoding: z.enum(['hex', 'base64']).default('hex'),
    headers: z.record(header, template).meta({ description: 'With {key}, {time} and {signature}.' })
  })
]);
export type ConnectorSignIn = z.output<typeof connectorSignIn>;

const limits = z.strictObject({
  reachDays: z.int().min(1).max(4000).default(30).meta({ description: 'How far back points can be requested.' }),
  historyHours: z
    .int()
    .min(1)
    .max(744)
    .default(24)
    .meta({ description: 'The longest span of one request for points.' }),
  atOnce: z.int().min(1).max(16).default(4).meta({ description: 'Requests at the same time.' }),
  perSecond: z.number().min(0.05).max(100).default(40),
  slowDown: z
    .array(z.int().min(400).max(599))
    .min(1)
    .max(10)
    .default([429])
    .meta({ description: 'Statuses that ask to slow down.' }),
  retryAfter: z
    .strictObject({ header, in: z.enum(['seconds', 'milliseconds', 'date']).default('seconds') })
    .default({ header: 'retry-after', in: 'seconds' }),
  pricePerThousandRequests: z.number().min(0).max(1000).default(0),
  pricePerGigabyteOfLines: z.number().min(0).max(1000).default(0)
});
export type ConnectorLimits = z.output<typeof limits>;

const text = (longest: number) => z.string().trim().min(1).max(longest);

const guide = z.strictObject({
  endpoint: text(80).default('Address of its interface'),
  key: text(80).default('Key'),
  secret: text(80).default('Secret'),
  steps: z.array(text(300)).max(20).default([]),
  rights: z
    .array(z.strictObject({ right: text(80), why: text(200), optional: z.boolean().default(false) }))
    .max(30)
    .default([])
});

const points = z.strictObject({
  by: z.enum(['series', 'resource', 'metric']).meta({
    description:
      'What one request is for: some series ($series, each with resource and metric), one resource ($resource and its $metrics), or one metric ($metric of $resources).'
  }),
  atMost: z.int().min(1).max(10_000).default(500).meta({ description: 'Series in one request.' }),
  time: z
    .enum(['seconds', 'milliseconds', 'text'])
    .default('seconds')
    .meta({ description: 'How instants of points are given.' }),
  ...listed
});

const header_ = z.strictObject({ header });
const lines = z.strictObject({
  feeds: z
    .strictObject({ ...listed })
    .meta({ description: 'What writes lines; map gives resource, and type or service.' }),
  order: z
    .strictObject({
      request: requestSchema,
      take: expression.meta({ description: 'What stands in $order for the request that fetches.' })
    })
    .optional(),
  request: requestSchema,
  notYet: z.int().min(200).max(599).optional().meta({ description: 'The status that says: ask again shortly.' }),
  isGzip: z.boolean().default(false),
  each: expression.optional().meta({ description: 'The lines in an answer that is not a line a row itself.' }),
  map: expression.optional(),
  until: z.union([header_, z.strictObject({ at: expression })]).meta({
    description: 'Up to when the answer has all lines.'
  }),
  more: z
    .union([z.strictObject({ header, is: text(60) }), z.strictObject({ at: expression })])
    .optional()
    .meta({ description: 'Whether there are more. Without it, they are requested up to the end of the span.' })
});

const bills = z.strictObject({
  settlesAfterDays: z.int().min(0).max(60).default(1),
  daysAtOnce: z.int().min(1).max(31).default(1),
  ...listed,
  through: expression.meta({ description: 'The last day that is complete in the answer; nothing where none is.' })
});

/** A provider, described: how it is called, and what its answers are here. */
export const connectorSchema = z.strictObject({
  kind: z.literal('connector'),
  version: z.literal(1),
  key: z.string().regex(/^[a-z][a-z0-9-]{1,39}$/, {
    error: 'A key is of small letters, digits and hyphens, and begins with a letter.'
  }),
  name: text(60),
  about: z.string().trim().max(500).default(''),
  guide: guide.prefault({}),
  signIn: connectorSignIn,
  limits: limits.prefault({}),
  values: z
    .record(variable, z.json())
    .default({})
    .meta({ description: 'Values that expressions use, by their names: $name.' }),
  functions: z
    .record(variable, expression)
    .default({})
    .meta({ description: 'Functions that expressions use: $name(…).' }),
  resources: z.strictObject({ over: outer, ...listed }),
  metrics: z.strictObject({ over: outer, ...listed }),
  points,
  events: z.strictObject({ ...listed }).optional(),
  lines: lines.optional(),
  bills: bills.optional()
});
export type Connector = z.output<typeof connectorSchema>;

/** What can be tried of a connector. */
export const connectorParts = ['resources', 'metrics', 'points', 'events', 'lines', 'bills'] as const;
export type ConnectorPart = (typeof connectorParts)[number];

export const connectorFileForm: FileForm<Connector> = {
  kind: 'connector',
  what: 'a connector',
  version: 1,
  schema: connectorSchema
};
