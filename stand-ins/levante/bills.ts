import { between, dateText, dayLength, decimal, paidMonthly, used, type Charge } from '../world/bills/charge';
import { resources, type LevanteResource } from './world';

/** The lines of a day are there five hours after its end. */
const laterMs = 5 * 3_600_000;
/** Lines of a page. */
const pageLines = 400;

/** Everything that an account is charged for, in euro. */
export function chargesOf(seed: number, account: string): Charge[] {
  const own = resources.filter((one) => one.account === account);
  const isStaging = account === 'corallo-staging';
  const none = { resource: null, name: '', type: '', region: '', labels: {} };
  return [
    ...own.flatMap((one) => chargesOfResource(seed, one, isStaging ? 0.4 : 1)),
    ...(isStaging ? [] : [used(seed, none, { usage: 'support plan', unit: 'd', price: 14.5, units: 1 })])
  ];
}

function chargesOfResource(seed: number, { id, name, type, region, tags }: LevanteResource, size: number): Charge[] {
  const of = { resource: id, name, type, region, labels: tags };
  const charge = (...rest: Parameters<typeof used>[2][]) => rest.map((usage) => used(seed, of, usage));
  switch (type) {
    case 'machine':
      return charge(
        { usage: 'machine hours', unit: 'h', price: round(between(seed, id, 0.14, 0.24) * size), units: 24 },
        { usage: 'disk', unit: 'GB', price: 0.0031, units: 220 },
        { usage: 'traffic out', unit: 'GB', price: 0.05, units: 18 * size, varies: 0.15, weekend: -0.12 }
      );
    case 'balancer':
      return charge(
        { usage: 'balancer hours', unit: 'h', price: 0.11, units: 24 },
        { usage: 'traffic out', unit: 'GB', price: 0.05, units: 76 * size, varies: 0.12, weekend: -0.12 }
      );
    case 'queue':
      return charge({ usage: 'requests', unit: '10*6', price: 0.4, units: 3.1 * size, varies: 0.12 });
    case 'cache':
      return charge({ usage: 'cache hours', unit: 'h', price: round(0.19 * size), units: 24 });
    case 'database':
      return [
        ...(name === 'ticket-orders'
          ? paidMonthly({ ...of, usage: 'database hours', unit: 'h' }, 21.6)
          : charge({ usage: 'database hours', unit: 'h', price: round(1.1 * size), units: 24 })),
        ...charge(
          { usage: 'storage', unit: 'GB', price: 0.0081, units: 640 * size, varies: 0.01 },
          { usage: 'backups', unit: 'GB', price: 0.0024, units: 1900 * size, varies: 0.02 }
        )
      ];
    case 'machine-group':
      return [];
    default:
      throw new TypeError(`chargesOfResource: unknown ${JSON.stringify(type satisfies never)}`);
  }
}

const round = (price: number): number => Math.round(price * 10_000) / 10_000;

/** The newest day whose lines are all there. */
export const lastBilledDay = (now: number): number => Math.floor((now - laterMs) / dayLength) - 1;

/**
 * A page of the lines of some days, day by day.
 *
 * @param from first day, and `to` the one after the last, as numbers since 1970-01-01
 * @param page how many lines were on pages before
 */
export function billPage(seed: number, account: string, from: number, to: number, page: number, now: number) {
  const through = Math.min(to - 1, lastBilledDay(now));
  const charges = chargesOf(seed, account);
  const days = Array.from({ length: Math.max(0, through - from + 1) }, (_, index) => from + index);
  const lines = days
    .flatMap((day) => charges.map((charge) => lineOf(charge, day)))
    .filter(({ quantity, amount, spread }) => quantity !== 0 || Number(amount) !== 0 || Number(spread) !== 0);
  const end = page + pageLines;
  return {
    currency: 'EUR',
    completeThrough: dateText(through),
    lines: lines.slice(page, end),
    next: end < lines.length ? String(end) : null
  };
}

const lineOf = (charge: Charge, day: number) => ({
  ...{ day: dateText(day), resource: charge.resource, name: charge.name, type: charge.type, region: charge.region },
  ...{ usage: charge.usage, unit: charge.unit, kind: charge.category, tags: charge.labels },
  quantity: charge.quantityOn(day),
  amount: decimal(charge.billedOn(day)),
  spread: decimal(charge.amortisedOn(day))
});
