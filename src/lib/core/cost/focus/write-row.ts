import { serviceByKey } from '../../services';
import { startOfDay, unknownService, type BillEntry, type ChargeCategory, type DayNumber } from '../bill';
import { textOfMicros } from '../money';
import type { FocusRow } from './check';
import type { focusChargeCategories, focusServiceCategories } from './columns';

/** Whose costs are written. */
export interface WrittenAccount {
  readonly provider: string;
  readonly account: string;
}

const categoryOf: Readonly<Record<ChargeCategory, (typeof focusChargeCategories)[number]>> = {
  usage: 'Usage',
  purchase: 'Purchase',
  tax: 'Tax',
  credit: 'Credit',
  adjustment: 'Adjustment'
};

const serviceCategoryOf: Readonly<Record<string, (typeof focusServiceCategories)[number]>> = {
  machines: 'Compute',
  'machine-groups': 'Compute',
  functions: 'Compute',
  clusters: 'Compute',
  databases: 'Databases',
  objects: 'Storage',
  replication: 'Storage',
  queues: 'Integration',
  pipelines: 'Analytics',
  balancers: 'Networking',
  gateways: 'Networking',
  caches: 'Databases'
};

/**
 * An entry as a row of a FOCUS 1.0 file: contracted and list cost are what is billed, since bills say nothing of discounts.
 *
 * @example focusRowOf(entry, { provider: 'Levante', account: 'corallo-prod' }).BilledCost // '12.5'
 */
export function focusRowOf({ item, day, billed, amortised, quantity }: BillEntry, of: WrittenAccount): FocusRow {
  const service = item.service === unknownService ? 'Other' : serviceByKey(item.service).title;
  const amount = quantity === null ? '' : String(quantity);
  const month = startOfMonth(day);
  const isUsed = item.category === 'usage';
  return {
    BilledCost: textOfMicros(billed),
    BillingAccountId: of.account,
    BillingAccountName: of.account,
    BillingCurrency: item.currency,
    BillingPeriodEnd: momentText(nextMonth(month)),
    BillingPeriodStart: momentText(month),
    ChargeCategory: categoryOf[item.category],
    ChargeDescription: item.usage,
    ChargePeriodEnd: momentText(startOfDay((day + 1) as DayNumber)),
    ChargePeriodStart: momentText(startOfDay(day)),
    ConsumedQuantity: isUsed ? amount : '',
    ConsumedUnit: isUsed && amount !== '' ? item.unit : '',
    ContractedCost: textOfMicros(billed),
    EffectiveCost: textOfMicros(amortised),
    InvoiceIssuerName: of.provider,
    ListCost: textOfMicros(billed),
    PricingQuantity: amount,
    PricingUnit: amount === '' ? '' : item.unit,
    ProviderName: of.provider,
    PublisherName: of.provider,
    RegionId: item.region,
    RegionName: item.region,
    ResourceId: item.resource ?? '',
    ResourceName: item.resource === null ? '' : item.resourceName,
    ResourceType: item.resourceType,
    ServiceCategory: serviceCategoryOf[item.service] ?? 'Other',
    ServiceName: service,
    SubAccountId: of.account,
    SubAccountName: of.account,
    Tags: Object.keys(item.labels).length === 0 ? '' : JSON.stringify(item.labels)
  };
}

const momentText = (at: number): string => new Date(at).toISOString().replace('.000Z', 'Z');

function startOfMonth(day: DayNumber): number {
  const at = new Date(startOfDay(day));
  return Date.UTC(at.getUTCFullYear(), at.getUTCMonth(), 1);
}
function nextMonth(month: number): number {
  const at = new Date(month);
  return Date.UTC(at.getUTCFullYear(), at.getUTCMonth() + 1, 1);
}
