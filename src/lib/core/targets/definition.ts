import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import { pageRuleSchema } from './rules';

/** The most pages of one account, and labels of one. */
export const mostTargets = 5000;
const mostLabels = 20;

const address = z
  .url({ protocol: /^https?$/, error: 'Enter an address that starts with http:// or https://.' })
  .max(500)
  .refine((text) => !URL.canParse(text) || (new URL(text).username === '' && new URL(text).password === ''), {
    error: 'Leave the name and the password out of the address. Enter them under Sign in.'
  });

const labelName = z.string().regex(/^[a-zA-Z_][a-zA-Z0-9_.-]{0,59}$/, {
  error: 'A label is of letters, digits, _ . and -, and begins with a letter.'
});

const labels = z
  .record(labelName, z.string().min(1).max(200))
  .refine((record) => Object.keys(record).length <= mostLabels, { error: `A page has ${mostLabels} labels at most.` });

/** One page that is read. */
export const targetSchema = z.strictObject({
  url: address,
  /** What it is called as a resource; its host and port unless it is said. */
  name: z
    .string()
    .max(200)
    .regex(/^[^\s="]+$/, { error: 'A name has no spaces, quotes or equals signs.' })
    .optional(),
  /** Tags of the resource. */
  labels: labels.default({})
});
export type Target = z.output<typeof targetSchema>;

const targetList = z
  .array(targetSchema)
  .max(mostTargets, { error: `An account has ${mostTargets} pages at most.` })
  .superRefine((targets, context) => {
    const seen = new Map<string, number>();
    targets.forEach((target, index) => {
      const name = nameOfTarget(target);
      const before = seen.get(name);
      if (before === undefined) seen.set(name, index);
      else
        context.addIssue({
          code: 'custom',
          path: [index],
          message: `Two pages are called ${name}. Give one of them another name.`
        });
    });
  });

/** A list of pages as another program offers it over HTTP, or as it stands in a file. */
export const targetListSchema = z.strictObject({ targets: targetList });

/** How often a page may be read, and how long one reading may take, s. */
const everySeconds = z.int().min(5, { error: 'Every 5 s at most.' }).max(1800, { error: 'Every 30 min at least.' });
const patienceSeconds = z.int().min(1).max(30, { error: 'A page has 30 s at most.' });

/** Where the list of pages comes from. */
export const findSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('list'), targets: targetList.min(1, { error: 'Enter at least one page.' }) }),
  z.strictObject({ by: z.literal('http'), url: address }),
  z.strictObject({
    by: z.literal('file'),
    /** Within the folder that BUSSOLA_TARGETS names. */
    file: z
      .string()
      .regex(/^[\w.-]+$/, { error: 'Enter the name of a file, without a folder.' })
      .max(100)
  })
]);

/** How Bussola signs in at the pages; what is secret of it is sealed apart. */
export const signInSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('nothing') }),
  z.strictObject({ by: z.literal('bearer') }),
  z.strictObject({ by: z.literal('basic'), name: z.string().min(1).max(200) }),
  z.strictObject({ by: z.literal('header'), header: z.string().regex(/^[A-Za-z][A-Za-z0-9-]{0,80}$/) }),
  /** A client certificate; its key is the secret. */
  z.strictObject({ by: z.literal('certificate'), certificate: z.string().includes('BEGIN CERTIFICATE').max(20_000) })
]);

/**
 * An account of OpenMetrics pages: where they are, how often they are read, how Bussola signs in there, and what becomes of their series.
 *
 * @example targetsSchema.parse({ find: { by: 'list', targets: [{ url: 'http://192.0.2.7:9000/metrics' }] } }).everySeconds // 15
 */
export const targetsSchema = z
  .strictObject({
    version: z.literal(1).default(1),
    find: findSchema,
    everySeconds: everySeconds.default(15),
    patienceSeconds: patienceSeconds.default(10),
    signIn: signInSchema.default({ by: 'nothing' }),
    /** A certificate (PEM) by which that of the pages is checked, besides those that the system trusts. */
    authority: z.string().includes('BEGIN CERTIFICATE').max(20_000).optional(),
    rules: z.array(pageRuleSchema).max(100).default([]),
    /** More series than this are not taken. */
    mostSeries: z.int().min(1).max(1_000_000).default(100_000)
  })
  .superRefine(({ everySeconds, patienceSeconds }, context) => {
    if (patienceSeconds > everySeconds)
      context.addIssue({
        code: 'custom',
        path: ['patienceSeconds'],
        message: 'A page has to answer before it is read again.'
      });
  });
export type Targets = z.output<typeof targetsSchema>;

/** How it is stored. */
export const targetsForm: StoredForm<Targets> = {
  what: 'The list of pages',
  version: 1,
  schema: targetsSchema,
  upgrades: [],
  ownsVersion: true
};

/** What a page is called as a resource. @example nameOfTarget({ url: 'http://192.0.2.7:9000/metrics' }) // '192.0.2.7:9000' */
export function nameOfTarget({ url, name }: Pick<Target, 'url' | 'name'>): string {
  if (name !== undefined) return name;
  const { host, pathname, search } = new URL(url);
  const path = `${pathname}${search}`.replace(/^\/(metrics\/?)?$/, '');
  return `${host}${path}`;
}
