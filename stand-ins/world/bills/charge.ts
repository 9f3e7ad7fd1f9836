// What things of Corallo Lines cost: made up, and a pure function of seed, thing and day.
import { seriesKey, unitNoise } from '../noise';

/** One thing that is charged for, in one way. */
export interface Charge {
  /** The provider's id; null for what is charged for no resource. */
  readonly resource: string | null;
  readonly name: string;
  readonly type: string;
  readonly region: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly usage: string;
  readonly unit: string;
  readonly category: 'usage' | 'purchase' | 'credit';
  /** How much is used on a day, given by its number since 1970-01-01 (UTC). */
  readonly quantityOn: (day: number) => number;
  /** What it costs on a day, in millionths of the currency, whole. */
  readonly billedOn: (day: number) => number;
  /** The same with what is paid up front spread over the days it is for. */
  readonly amortisedOn: (day: number) => number;
}

type Usage = Pick<Charge, 'usage' | 'unit'> & {
  /** What one unit costs, in the currency. */
  readonly price: number;
  /** Units on an ordinary day; by how much they vary from day to day, and how much less they are at weekends, as shares. */
  readonly units: number;
  readonly varies?: number;
  readonly weekend?: number;
  /** What the units are multiplied by on a day. */
  readonly times?: (day: number) => number;
};

/** A charge for what is used. */
export function used(
  seed: number,
  of: Pick<Charge, 'resource' | 'name' | 'type' | 'region' | 'labels'>,
  { usage, unit, price, units, varies = 0, weekend = 0, times = () => 1 }: Usage
): Charge {
  const key = seriesKey(seed, `bill/${of.resource ?? of.name}/${usage}`);
  const quantityOn = (day: number): number => {
    const noise = 1 + varies * (unitNoise(key, day) + unitNoise(key ^ 0x77, day) - 1) * 1.2;
    return units * noise * (isWeekend(day) ? 1 - weekend : 1) * times(day);
  };
  const billedOn = (day: number) => Math.round(quantityOn(day) * price * 1_000_000);
  return { ...of, usage, unit, category: 'usage', quantityOn, billedOn, amortisedOn: billedOn };
}

/** Day 0 was a Thursday. */
const isWeekend = (day: number): boolean => (day + 3) % 7 >= 5;

/** What is paid on the first day of each month for all of it: billed on that day, amortised over the month. */
export function paidMonthly(
  of: Pick<Charge, 'resource' | 'name' | 'type' | 'region' | 'labels' | 'usage' | 'unit'>,
  aDay: number
): Charge[] {
  const daily = Math.round(aDay * 1_000_000);
  const isFirst = (day: number) => new Date(day * 86_400_000).getUTCDate() === 1;
  return [
    {
      ...{ ...of, usage: `${of.usage}, paid for a month`, unit: 'month', category: 'purchase' },
      quantityOn: (day) => (isFirst(day) ? 1 : 0),
      billedOn: (day) => (isFirst(day) ? daily * daysOfMonth(day) : 0),
      amortisedOn: () => 0
    },
    { ...of, category: 'usage', quantityOn: () => 24, billedOn: () => 0, amortisedOn: () => daily }
  ];
}

/** Days of the month that a day is in. */
export function daysOfMonth(day: number): number {
  const at = new Date(day * 86_400_000);
  return new Date(Date.UTC(at.getUTCFullYear(), at.getUTCMonth() + 1, 0)).getUTCDate();
}

/** A number between two, the same for a thing each time. */
export const between = (seed: number, name: string, low: number, high: number): number =>
  low + (high - low) * unitNoise(seriesKey(seed, `price/${name}`), 1);

/** An amount as bills write it: millionths with a point. @example decimal(1_250_000) // '1.250000' */
export function decimal(amount: number): string {
  const whole = Math.floor(Math.abs(amount) / 1_000_000);
  const rest = String(Math.abs(amount) % 1_000_000).padStart(6, '0');
  return `${amount < 0 ? '-' : ''}${whole}.${rest}`;
}

export const dayLength = 86_400_000;
/** A day as bills write it. @example dateText(0) // '1970-01-01' */
export const dateText = (day: number): string => new Date(day * dayLength).toISOString().slice(0, 10);
/** NaN for what is no date. */
export const dayFrom = (text: string): number => Date.parse(`${text}T00:00:00Z`) / dayLength;
