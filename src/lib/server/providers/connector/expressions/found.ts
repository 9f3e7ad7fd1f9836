import { z } from 'zod';
import { addMicros, dayOf, micros, microsFromText, unknownService, type BillEntry, type Micros } from '$lib/core/cost';
import { instantTextSchema } from '$lib/core/forms/instant-text';
import { unstorableIn } from '$lib/core/forms/storable';
import { serviceOfType } from '$lib/core/services';
import { instantFromText } from '$lib/core/time';
import { columnsOf, isSound, type RawPoint } from '../../port/points';
import type { FetchedSeries, FoundEvent, FoundMetric, FoundResource, UnreadableEvent } from '../../port/provider';

const text = (most: number) => z.string().max(most);
const name = (most: number) => z.string().min(1).max(most);
/** Maps leave out what is not there, or give null. */
const orElse = <T extends z.ZodType>(schema: T, usual: z.output<T>) =>
  z.preprocess((value) => (value === null ? undefined : value), schema.default(usual as never));
const labels = orElse(z.record(text(200), z.coerce.string().max(400)), {});

const resource = z
  .strictObject({
    id: name(300),
    name: name(200),
    type: name(60),
    service: name(60).optional(),
    region: orElse(text(60), ''),
    tags: labels,
    guest: orElse(z.enum(['none', 'off', 'on']), 'none'),
    formerNames: orElse(z.array(z.strictObject({ name: name(200), until: instantTextSchema })), [])
  })
  .transform(({ id, service, formerNames, ...rest }): FoundResource => ({
    ...rest,
    providerId: id,
    service: service ?? serviceOfType(rest.type),
    formerNames: formerNames.map((former) => ({ name: former.name, until: instantFromText(former.until) }))
  }));

const metric = z
  .strictObject({
    name: name(200),
    title: name(120),
    description: orElse(text(1000), ''),
    unit: text(40),
    kind: z.enum(['gauge', 'delta', 'cumulative']),
    shape: orElse(z.enum(['summary', 'single']), 'single'),
    resourceType: name(60),
    service: name(60).optional(),
    recommended: orElse(z.boolean(), true),
    level: orElse(z.enum(['host', 'guest']), 'host'),
    samplingSeconds: z.number().int().positive().max(86_400),
    delaySeconds: orElse(z.number().int().nonnegative().max(604_800), 0)
  })
  .transform(({ samplingSeconds, delaySeconds, service, ...rest }): FoundMetric => ({
    ...rest,
    service: service ?? serviceOfType(rest.resourceType),
    samplingMs: samplingSeconds * 1000,
    delayMs: delaySeconds * 1000
  }));

const amount = z.union([z.string().max(60), z.number()]);
const amounts = z.union([amount, z.array(amount).max(1000)]).transform((given, context): Micros => {
  let sum = micros(0);
  for (const one of Array.isArray(given) ? given : [given]) {
    const read = microsFromText(String(one));
    if (read === null) {
      context.addIssue({ code: 'custom', message: `${JSON.stringify(one).slice(0, 40)} is no amount` });
      return z.NEVER;
    }
    sum = addMicros(sum, read);
  }
  return sum;
});

const billed = z
  .strictObject({
    day: z.iso.date(),
    resource: orElse(name(400).nullable(), null),
    name: orElse(text(400), ''),
    type: orElse(text(100), ''),
    region: orElse(text(100), ''),
    service: name(60).optional(),
    usage: name(300),
    unit: orElse(text(60), ''),
    category: orElse(z.enum(['usage', 'purchase', 'tax', 'credit', 'adjustment']), 'usage'),
    currency: z.string().length(3),
    labels,
    quantity: orElse(z.number().nullable(), null),
    billed: amounts,
    amortised: amounts.optional()
  })
  .transform((one): BillEntry => ({
    item: {
      ...{ resource: one.resource, resourceName: one.name, resourceType: one.type, region: one.region },
      service: one.service ?? (one.type === '' ? unknownService : serviceOfType(one.type)),
      ...{ usage: one.usage, unit: one.unit, category: one.category, currency: one.currency, labels: one.labels }
    },
    ...{ day: dayOf(one.day), billed: one.billed, amortised: one.amortised ?? one.billed, quantity: one.quantity }
  }));

/** What writes lines, as a connector maps it. */
const feed = z
  .strictObject({
    resource: name(400).nullable(),
    name: name(400).optional(),
    type: text(60).optional(),
    service: name(60).optional()
  })
  .transform((one) => ({ ...one, name: one.name ?? one.resource ?? 'lines' }));
export type FoundFeed = z.output<typeof feed>;

const event = z
  .strictObject({
    id: z.union([name(200), z.number()]).transform(String),
    at: instantTextSchema,
    resource: orElse(text(300).nullable(), null),
    kind: text(60),
    text: text(1000),
    subject: labels
  })
  .transform((one): FoundEvent => ({ ...one, at: instantFromText(one.at) }));

/** What a connector's maps give, by what they are. */
export const foundSchemas = { resource, metric, billed, feed } as const;

/** Why something does not fit, in words. */
export const whyUnfit = ({ issues: [first] }: z.ZodError): string =>
  `${first?.path.join('.') || 'it'}: ${first?.message ?? 'does not fit'}`;

/** One event, or why it cannot be read: it does not prevent the others from being read. */
export function eventOf(mapped: unknown, sent: unknown): FoundEvent | UnreadableEvent {
  const id = (mapped as { id?: unknown } | undefined)?.id;
  const refused = (why: string): UnreadableEvent => ({
    id: typeof id === 'string' || typeof id === 'number' ? String(id).slice(0, 200) : null,
    why,
    example: (JSON.stringify(sent) ?? '').slice(0, 200)
  });
  const unstorable = unstorableIn(mapped);
  if (unstorable !== null) return refused(`${unstorable.path} ${unstorable.why}`);
  const read = event.safeParse(mapped);
  return read.success ? read.data : refused(whyUnfit(read.error));
}

/** How instants of points are given. */
export type PointTime = 'seconds' | 'milliseconds' | 'text';

const seriesHead = z.object({
  resource: name(300),
  metric: name(200),
  labels: labels
});

/** One series with what of its points is sound, and what was refused. */
export interface MappedSeries {
  readonly series: FetchedSeries | null;
  readonly refused: number;
  readonly refusedExample: string | null;
}

/**
 * One series as it was mapped: `points` are [time, value] or [time, sum, count, min, max]; or `times` and `values` beside one another.
 *
 * @returns null with why where it is none
 */
export function seriesOf(mapped: unknown, time: PointTime): MappedSeries | { readonly why: string } {
  const head = seriesHead.safeParse(mapped);
  if (!head.success) return { why: whyUnfit(head.error) };
  const { points, times, values } = mapped as { points?: unknown; times?: unknown; values?: unknown };
  const rows: readonly unknown[] | null = Array.isArray(points)
    ? // A list of one point may have become the point.
      points.length > 0 && !Array.isArray(points[0]) && typeof points[0] !== 'object'
      ? [points]
      : (points as unknown[])
    : Array.isArray(times) && Array.isArray(values)
      ? times.map((at: unknown, i) => [at, (values as unknown[])[i]])
      : points === undefined && times === undefined
        ? []
        : null;
  if (rows === null) return { why: 'points: is no list' };
  const sound: RawPoint[] = [];
  let refused = 0;
  let refusedExample: string | null = null;
  for (const row of rows) {
    const candidate = pointOf(row, time);
    if (isSound(candidate)) sound.push(candidate);
    else {
      refused++;
      refusedExample ??= `${head.data.metric} of ${head.data.resource}: ${(JSON.stringify(row) ?? '').slice(0, 80)}`;
    }
  }
  return { series: sound.length === 0 ? null : { ...head.data, points: columnsOf(sound) }, refused, refusedExample };
}

function pointOf(row: unknown, time: PointTime): readonly unknown[] {
  if (!Array.isArray(row)) return [];
  const [given, ...rest] = row as unknown[];
  const at = instantOf(given, time);
  const [value] = rest;
  return rest.length === 1 ? [at, value, 1, value, value] : [at, ...rest];
}

function instantOf(given: unknown, time: PointTime): number | null {
  if (time === 'text') {
    if (typeof given !== 'string') return null;
    try {
      return instantFromText(given);
    } catch (error) {
      if (error instanceof RangeError) return null;
      throw error;
    }
  }
  if (typeof given !== 'number' || (time === 'seconds' && !Number.isInteger(given))) return null;
  return time === 'seconds' ? given * 1000 : given;
}
