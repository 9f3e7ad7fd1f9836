import { serviceOfType, services } from '../../services';
import { costItemSchema, dayAt, unknownService, type BillEntry, type ChargeCategory, type DayNumber } from '../bill';
import { microsFromText, micros, type Micros } from '../money';
import type { Instant } from '../../time';
import { mapOf, momentOf, rowProblems, type FocusRow } from './check';

/** A row that is read: one entry for each day it is about. */
export interface ReadRow {
  readonly kind: 'read';
  readonly account: FocusAccount;
  readonly entries: readonly BillEntry[];
}
/** Whose row it is, as far as it says so. */
export interface FocusAccount {
  readonly provider: string;
  readonly billing: string;
  /** Its own name, the billing account's where it has none. */
  readonly name: string;
}
export interface RejectedRow {
  readonly kind: 'rejected';
  readonly why: string;
}

const dayLength = 86_400_000;
/** A billion of any currency, in millionths: more is no amount of a row but a mistake. */
const mostAmount = 1e15;
/** The longest period that one row is about: a year and a day, for what is bought for a year. */
const mostDays = 367;

/**
 * What a row of a FOCUS file says. A period of hours counts to the day it is in; one of several days is spread evenly over them, so that no millionth is lost.
 *
 * @returns why it is rejected, where it does not fit the specification
 */
export function readFocusRow(row: FocusRow): ReadRow | RejectedRow {
  const [problem] = rowProblems(row);
  if (problem !== undefined) return { kind: 'rejected', why: problem };
  const cell = (name: string) => row[name] ?? '';
  const [from, to] = [momentOf(cell('ChargePeriodStart')), momentOf(cell('ChargePeriodEnd'))];
  if (from === null || to === null) return { kind: 'rejected', why: 'The charge period is missing.' };
  const first = dayAt(from as Instant);
  const count = Math.max(1, Math.ceil((to - first * dayLength) / dayLength));
  if (count > mostDays) return { kind: 'rejected', why: `The charge period has more than ${mostDays} days.` };
  const billed = microsFromText(cell('BilledCost'));
  const amortised = cell('EffectiveCost') === '' ? billed : microsFromText(cell('EffectiveCost'));
  if (billed === null || amortised === null || Math.max(Math.abs(billed), Math.abs(amortised)) > mostAmount)
    return { kind: 'rejected', why: 'An amount is too large.' };
  const quantity = cell('ConsumedQuantity') || cell('PricingQuantity');
  const item = costItemSchema.safeParse({
    resource: cell('ResourceId') || null,
    resourceName: cell('ResourceName') || cell('ResourceId'),
    resourceType: cell('ResourceType'),
    region: cell('RegionId') || cell('RegionName'),
    service: serviceFrom(row),
    usage: cell('ChargeDescription') || cell('SkuId') || cell('ServiceName'),
    unit: cell('ConsumedUnit') || cell('PricingUnit'),
    category: cell('ChargeCategory').toLowerCase() as ChargeCategory,
    currency: cell('BillingCurrency'),
    labels: cell('Tags') === '' ? {} : mapOf(cell('Tags'))
  });
  if (!item.success) {
    const [issue] = item.error.issues;
    return { kind: 'rejected', why: `${issue?.path.join('.') ?? 'The row'}: ${issue?.message ?? 'cannot be read'}` };
  }
  // What is bought for a month is on one invoice: it is billed on its first day.
  const isSpread = item.data.category !== 'purchase';
  const share = (of: Micros, index: number) => (isSpread ? partOf(of, count, index) : index === 0 ? of : micros(0));
  const used = quantity === '' ? null : Number(quantity);
  const days = isSpread ? count : 1;
  return {
    kind: 'read',
    account: {
      provider: cell('ProviderName'),
      billing: cell('BillingAccountId'),
      name: cell('SubAccountName') || cell('SubAccountId') || cell('BillingAccountName') || cell('BillingAccountId')
    },
    entries: Array.from({ length: days }, (_, index) => ({
      ...{ item: item.data, day: (first + index) as DayNumber },
      ...{ billed: share(billed, index), amortised: share(amortised, index) },
      quantity: used === null ? null : used / days
    }))
  };
}

/** The part of an amount for one of several days, so that all parts make the whole. */
const partOf = (amount: Micros, count: number, index: number): Micros =>
  micros(Math.round((amount * (index + 1)) / count) - Math.round((amount * index) / count));

/** The key of the service that a row is about: by the type of its resource, by its name, or else the name as it is. */
function serviceFrom(row: FocusRow): string {
  const type = row['ResourceType'] ?? '';
  const byType = services.find(({ types }) => types.includes(type));
  if (byType) return serviceOfType(type);
  const name = row['ServiceName'] ?? '';
  const known = services.find(({ key, title }) => key === name || title.toLowerCase() === name.toLowerCase());
  if (name.toLowerCase() === 'other') return unknownService;
  return known?.key ?? name.slice(0, 60);
}
