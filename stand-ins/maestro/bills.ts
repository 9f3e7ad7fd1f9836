import { gzipSync } from 'node:zlib';
import { stringify } from 'csv-stringify/sync';
import { dateText, dayLength, daysOfMonth, decimal, used, type Charge } from '../world/bills/charge';
import { clusters } from './world';

/** A month's file is written anew every night at four. */
const writtenAtMs = 4 * 3_600_000;
/** Months that files are there of. */
const keptMonths = 14;
/** The credit for a whole month, a share of it, is in its file from the third day after. */
const creditShare = 0.02;
const creditAfterDays = 2;

/** Everything that is charged for, in euro. */
export function chargesOf(seed: number): Charge[] {
  return clusters.flatMap(({ id, location, nodes, workloads, gateways }) => {
    const of = (name: string, type: string) => ({
      ...{ resource: type === 'cluster' ? id : `${id}/${type}/${name}`, name, type, region: location },
      labels: { cluster: id }
    });
    return [
      used(seed, of(id, 'cluster'), { usage: 'control plane', unit: 'h', price: 0.1, units: 24 }),
      ...nodes.map((name) => used(seed, of(name, 'node'), { usage: 'node hours', unit: 'h', price: 0.36, units: 24 })),
      ...(workloads.length === 0
        ? []
        : [used(seed, of(id, 'cluster'), { usage: 'traffic out', unit: 'GB', price: 0.04, units: 60, varies: 0.15 })]),
      ...(gateways.length === 0
        ? []
        : [used(seed, of(id, 'cluster'), { usage: 'link to vessels', unit: 'GB', price: 1.1, units: 5, varies: 0.2 })])
    ];
  });
}

export interface BillFile {
  readonly name: string;
  readonly month: string;
  /** The newest day that it has. */
  readonly through: string;
  /** When it was written. */
  readonly written: string;
}

/** The files that are there at a moment, oldest first. */
export function billFiles(now: number): BillFile[] {
  const night = Math.floor((now - writtenAtMs) / dayLength);
  const last = night - 1;
  const newest = new Date(last * dayLength);
  return Array.from({ length: keptMonths }, (_, index) => {
    const first = Date.UTC(newest.getUTCFullYear(), newest.getUTCMonth() - (keptMonths - 1 - index), 1) / dayLength;
    const end = first + daysOfMonth(first) - 1;
    const through = Math.min(end, last);
    const written = Math.min(night, end + 1 + creditAfterDays) * dayLength + writtenAtMs;
    const month = dateText(first).slice(0, 7);
    return { name: `${month}.csv.gz`, month, through: dateText(through), written: new Date(written).toISOString() };
  });
}

/** What a month's file says: a row for each charge and day, and the credit once it is there. */
export function billRows(seed: number, file: BillFile) {
  const first = Date.parse(`${file.month}-01T00:00:00Z`) / dayLength;
  const through = Date.parse(`${file.through}T00:00:00Z`) / dayLength;
  const charges = chargesOf(seed);
  const days = Array.from({ length: through - first + 1 }, (_, index) => first + index);
  const rows = days.flatMap((day) => charges.map((charge) => ({ charge, day, amount: charge.billedOn(day) })));
  const whole = rows.reduce((sum, { amount }) => sum + amount, 0);
  const end = first + daysOfMonth(first);
  const hasCredit = Date.parse(file.written) >= (end + creditAfterDays) * dayLength;
  return { first, end, rows, credit: hasCredit ? -Math.round(whole * creditShare) : 0 };
}

/** A month's file: FOCUS 1.0 as CSV, packed. */
export function billFile(seed: number, file: BillFile): Buffer {
  const { first, end, rows, credit } = billRows(seed, file);
  const moment = (day: number) => `${dateText(day)}T00:00:00Z`;
  const common = {
    ...{ BillingAccountId: 'corallo-lines', BillingAccountName: 'Corallo Lines', BillingCurrency: 'EUR' },
    ...{ BillingPeriodStart: moment(first), BillingPeriodEnd: moment(end) },
    ...{ InvoiceIssuerName: 'Maestro', ProviderName: 'Maestro', PublisherName: 'Maestro' },
    ...{ SubAccountId: 'fleet-edge', SubAccountName: 'fleet-edge', ChargeClass: '' }
  };
  const period = (day: number) => ({ ChargePeriodStart: moment(day), ChargePeriodEnd: moment(day + 1) });
  const cost = (amount: number) => ({
    ...{ BilledCost: decimal(amount), EffectiveCost: decimal(amount) },
    ...{ ListCost: decimal(amount), ContractedCost: decimal(amount) }
  });
  const usage = rows.map(({ charge, day, amount }) => ({
    ...{ ...common, ...period(day), ...cost(amount) },
    ...{ ChargeCategory: 'Usage', ChargeDescription: charge.usage, ChargeFrequency: 'Usage-Based' },
    ...{ ConsumedQuantity: String(charge.quantityOn(day)), ConsumedUnit: charge.unit },
    ...{ PricingQuantity: String(charge.quantityOn(day)), PricingUnit: charge.unit },
    ...{ RegionId: charge.region, RegionName: charge.region },
    ...{ ResourceId: charge.resource ?? '', ResourceName: charge.name, ResourceType: charge.type },
    ...{ ServiceCategory: 'Compute', ServiceName: 'Clusters', Tags: JSON.stringify(charge.labels) }
  }));
  const credited = {
    ...{ ...common, ...period(end - 1), ...cost(credit) },
    ...{ ChargeCategory: 'Credit', ChargeDescription: 'volume credit', ChargeFrequency: 'One-Time' },
    ...{ ServiceCategory: 'Other', ServiceName: 'Other' }
  };
  const header = Object.keys(usage[0] ?? credited);
  return gzipSync(stringify(credit === 0 ? usage : [...usage, credited], { header: true, columns: header }));
}
