import { z } from 'zod';
import { day as dayLength, type Instant } from '../time';
import { isCurrency, type Micros } from './money';

/** A day of the calendar in UTC, as the number of days since 1970-01-01: bills go by these. */
export type DayNumber = number & { readonly dayNumber: true };

/** The day that an instant is in. @example dayAt(0 as Instant) // 0 */
export const dayAt = (at: Instant): DayNumber => Math.floor(at / dayLength) as DayNumber;

/** The first instant of a day. */
export const startOfDay = (day: DayNumber): Instant => (day * dayLength) as Instant;

/** @throws RangeError for what is no date @example dayOf('1970-01-02') // 1 */
export function dayOf(date: string): DayNumber {
  const at = /^\d{4}-\d{2}-\d{2}$/.test(date) ? Date.parse(`${date}T00:00:00Z`) : NaN;
  if (Number.isNaN(at)) throw new RangeError(`dayOf: ${JSON.stringify(date)} is not a date`);
  return (at / dayLength) as DayNumber;
}

/** @example dateOf(1 as DayNumber) // '1970-01-02' */
export const dateOf = (day: DayNumber): string => new Date(day * dayLength).toISOString().slice(0, 10);

/** What an entry of a bill is about, as FOCUS has it. */
export const chargeCategories = ['usage', 'purchase', 'tax', 'credit', 'adjustment'] as const;
export type ChargeCategory = (typeof chargeCategories)[number];

/** The key of what belongs to no service, such as a fee for support. */
export const unknownService = 'other';

/** The metric of what a resource costs a day, in the resource's own account. */
export const resourceCost = 'resource.cost';

const text = (most: number) => z.string().max(most);

/** What is charged, whatever the day. */
export const costItemSchema = z.strictObject({
  /** The provider's id and name of the resource; null for what is charged for none in particular. */
  resource: text(400).min(1).nullable(),
  resourceName: text(400),
  resourceType: text(100),
  region: text(100),
  /** A service's key; {@link unknownService} for what belongs to none. */
  service: text(60).min(1),
  /** What of it is charged, such as `stored bytes`. */
  usage: text(300),
  /** In which it is counted; empty where nothing is. */
  unit: text(60),
  category: z.enum(chargeCategories),
  currency: z.string().refine(isCurrency, { error: 'A currency is a code of ISO 4217, such as EUR.' }),
  labels: z.record(text(200), text(400))
});
export type CostItem = z.infer<typeof costItemSchema>;

/** What an item cost on a day. */
export interface BillEntry {
  readonly item: CostItem;
  readonly day: DayNumber;
  /** What is on the invoice for that day. */
  readonly billed: Micros;
  /** The same with what was paid up front spread over the days that it is for. */
  readonly amortised: Micros;
  /** How much was used; null where nothing is counted. */
  readonly quantity: number | null;
}

/** Which of both amounts is looked at. */
export const costBases = ['billed', 'amortised'] as const;
export type CostBasis = (typeof costBases)[number];

/** What makes an item the same one from one bill to the next: all but names and labels, which change. */
export const itemIdentity = ({ resource, region, service, usage, unit, category, currency }: CostItem): string =>
  JSON.stringify([resource, region, service, usage, unit, category, currency]);
