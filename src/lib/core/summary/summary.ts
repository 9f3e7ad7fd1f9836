import { z } from 'zod';
import { severities } from '../alarm/severity';
import { isCurrency } from '../cost/money';
import type { StoredForm } from '../forms/stored';
import { isZone, type Instant } from '../time';
import { summaryKinds } from './period';

/** Milliseconds since the epoch. */
const moment = z.int() as unknown as z.ZodType<Instant, Instant>;
const count = z.int().min(0);

/** Of one severity: incidents that were raised, and how many in the week or month before. */
const bySeverity = z.strictObject({ severity: z.enum(severities), count, earlier: count });

/** What one thing came to. Lengths are in ms, amounts in millionths of the currency. */
export const summarySchema = z.strictObject({
  kind: z.enum(summaryKinds),
  from: moment,
  to: moment,
  zone: z.string().refine(isZone),
  /** When it was put together: a week or month that was not over ends there. */
  madeAt: moment,
  incidents: z.strictObject({
    total: count,
    earlier: count,
    /** The gravest first. */
    bySeverity: z.array(bySeverity),
    /** Of those that were raised until its end, how many were open when it was put together. */
    open: count,
    /** How many were raised on each day. */
    days: z.array(z.strictObject({ date: z.string(), counts: z.array(count).length(severities.length) }))
  }),
  /** Those with the gravest first. */
  services: z.array(
    z.strictObject({
      service: z.string(),
      title: z.string(),
      count,
      earlier: count,
      worst: z.enum(severities).nullable(),
      resources: count
    })
  ),
  /** The longest first; of what was raised earlier, only what lies within counts. */
  longest: z.array(
    z.strictObject({
      id: z.int(),
      alarm: z.string(),
      subject: z.string(),
      severity: z.enum(severities),
      openedAt: moment,
      closedAt: moment.nullable(),
      length: z.number()
    })
  ),
  promises: z.array(
    z.strictObject({
      id: z.int(),
      name: z.string(),
      targetPercent: z.number(),
      /** What it is measured over, such as `30 days`. */
      over: z.string(),
      /** Share that was good, and of the error budget that is left; null where nothing is known. */
      good: z.number().nullable(),
      left: z.number().nullable(),
      /** Why nothing is known of it; empty where it is. */
      problem: z.string()
    })
  ),
  /** Null where nothing is billed. */
  cost: z
    .strictObject({
      currency: z.string().refine(isCurrency),
      total: z.number(),
      /** Of as many days of the week or month before; null where nothing is billed of them. */
      earlier: z.number().nullable(),
      /** The first date that is not billed; null where all are. */
      unbilledFrom: z.string().nullable(),
      days: z.array(z.strictObject({ date: z.string(), amount: z.number().nullable() })),
      services: z.array(z.strictObject({ title: z.string(), total: z.number(), earlier: z.number().nullable() })),
      /** Of the month that it ends in, with 80 of 100 expected between `low` and `high`; null where that cannot be said. */
      expected: z.strictObject({ month: z.string(), middle: z.number(), low: z.number(), high: z.number() }).nullable(),
      changes: z.array(
        z.strictObject({ what: z.string(), date: z.string(), before: z.number(), after: z.number(), near: z.string() })
      )
    })
    .nullable(),
  /** What people and programs marked. */
  changed: z.array(z.strictObject({ at: moment, text: z.string(), service: z.string().nullable() })),
  /** How many more were marked than are listed. */
  moreChanged: count,
  /** What is stored, and how much: value in a UCUM unit. */
  sizes: z.array(
    z.strictObject({ what: z.string(), unit: z.string(), value: z.number(), earlier: z.number().nullable() })
  )
});
export type Summary = z.infer<typeof summarySchema>;

/** How a summary is stored that was sent, or that a link leads to. */
export const summaryForm: StoredForm<Summary> = {
  ...{ what: 'The summary', version: 1, schema: summarySchema, upgrades: [] }
};

/** Entries of each list at most. */
export const mostListed = 10;
