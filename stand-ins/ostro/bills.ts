import { between, dateText, dayLength, decimal, used, type Charge } from '../world/bills/charge';
import { seriesKey, unitNoise } from '../world/noise';
import { doublingStore } from '../world/troubles';
import { storedGigabytes, storedPrice } from './stored';
import { subscriptions, things, type OstroThing } from './world';

const hour = 3_600_000;
/** An hour's estimate is there two hours after its end. */
const laterMs = 2 * hour;
/** By how much the costs of an hour are off at most, by the days since: an estimate, corrected once a day, and final after three. */
const errors = [0.08, 0.04, 0.015, 0] as const;
export const settledAfterDays = errors.length - 1;

/** Everything that the tenant is charged for, in Swiss francs. */
export const chargesOf = (seed: number, start: number): Charge[] =>
  things.flatMap((thing) => chargesOfThing(seed, thing, start));

function chargesOfThing(seed: number, thing: OstroThing, start: number): Charge[] {
  const { uri, kind, title, location, subscription, labels } = thing;
  const named = subscriptions.find(({ id }) => id === subscription)?.name ?? subscription;
  const of = { resource: uri, name: title, type: kind, region: location, labels: { ...labels, subscription: named } };
  const charge = (...rest: Parameters<typeof used>[2][]) => rest.map((usage) => used(seed, of, usage));
  const growing = doublingStore(start);
  switch (kind) {
    case 'object-store':
      return charge(
        {
          ...{ usage: 'stored bytes', unit: 'GB', price: storedPrice, units: storedGigabytes(thing), varies: 0.02 },
          // Versions are stored from one day on: what was written over is paid for as well.
          times: (day) => (title === growing.name && day >= Math.floor(growing.from / dayLength) ? 1.98 : 1)
        },
        { usage: 'requests', unit: '10*6', price: 0.5, units: between(seed, uri, 0.5, 6), varies: 0.12, weekend: 0.2 }
      );
    case 'function':
      return charge(
        { usage: 'calls', unit: '10*6', price: 0.2, units: between(seed, uri, 0.6, 3), varies: 0.12 },
        { usage: 'run time', unit: 's', price: 0.000_016, units: between(seed, uri, 60_000, 140_000), varies: 0.12 }
      );
    case 'machine':
      return charge(
        { usage: 'machine hours', unit: 'h', price: title === 'berth-2' ? 0.084 : 0.16, units: 24 },
        { usage: 'traffic out', unit: 'GB', price: 0.05, units: title === 'berth-2' ? 0.1 : 9, varies: 0.15 }
      );
    case 'database':
      return charge(
        { usage: 'database hours', unit: 'h', price: 0.9, units: 24 },
        { usage: 'storage', unit: 'GB', price: 0.0085, units: 420, varies: 0.01 }
      );
    case 'pipeline':
      return charge({ usage: 'runs', unit: 'h', price: 0.28, units: between(seed, uri, 3, 11), varies: 0.1 });
    case 'replication':
      return charge({ usage: 'copied bytes', unit: 'GB', price: 0.02, units: 360, varies: 0.1, weekend: 0.15 });
    case 'gateway':
      return charge(
        { usage: 'gateway hours', unit: 'h', price: 0.06, units: 24 },
        { usage: 'traffic out', unit: 'GB', price: 0.03, units: 70, varies: 0.15 }
      );
    default:
      throw new TypeError(`chargesOfThing: unknown ${JSON.stringify(kind satisfies never)}`);
  }
}

/** How often the costs of a day have been corrected by a moment, 0 to 3. */
export const revisionAt = (day: number, now: number): number =>
  Math.max(0, Math.min(settledAfterDays, Math.floor((now - laterMs - (day + 1) * dayLength) / dayLength)));

/** What an hour of a charge costs in the end: its part of the day, so that all hours make the day. */
const finalOf = (charge: Charge, day: number, at: number): number => {
  const whole = charge.billedOn(day);
  return Math.floor((whole * (at + 1)) / 24) - Math.floor((whole * at) / 24);
};

/** The costs of a day's hours as they are told at a revision. */
export function hourlyCosts(seed: number, charge: Charge, day: number, revision: number): number[] {
  const key = seriesKey(seed, `estimate/${charge.resource ?? ''}/${charge.usage}/${revision}`);
  const most = errors[revision] ?? 0;
  return Array.from({ length: 24 }, (_, at) =>
    Math.round(finalOf(charge, day, at) * (1 + most * (2 * unitNoise(key, day * 24 + at) - 1)))
  );
}

/** The costs of a day by hour; none before the estimate of its last hour is there. */
export function chargesOn(seed: number, start: number, day: number, now: number) {
  if (now < (day + 1) * dayLength + laterMs)
    return { day: dateText(day), currency: 'CHF', complete: false, charges: [] };
  const revision = revisionAt(day, now);
  return {
    ...{ day: dateText(day), currency: 'CHF', complete: true, revision },
    charges: chargesOf(seed, start).map((charge) => ({
      ...{ uri: charge.resource, title: charge.name, kind: charge.type, location: charge.region },
      ...{ labels: charge.labels, usage: charge.usage, unit: charge.unit },
      quantity: charge.quantityOn(day),
      costs: hourlyCosts(seed, charge, day, revision).map(decimal)
    }))
  };
}
