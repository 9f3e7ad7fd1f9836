import { z } from 'zod';
import { isCurrency, micros, type Micros } from './money';

/** From a day on, so much of one's own currency is one of another. */
export const datedRateSchema = z.strictObject({
  currency: z.string().refine(isCurrency, { error: 'A currency is a code of ISO 4217, such as EUR.' }),
  from: z.iso.date({ error: 'Give the day from which the rate holds, such as 2026-05-04.' }),
  rate: z.number().positive({ error: 'A rate is above 0.' }).max(1_000_000_000)
});
export type DatedRate = z.infer<typeof datedRateSchema>;

/** Rates by which amounts of several currencies become amounts of one. */
export class Rates {
  readonly #byCurrency = new Map<string, DatedRate[]>();

  /**
   * @param own the currency in which amounts are wanted
   * @param rates in any order; of two of one currency and day the last one counts
   */
  constructor(
    readonly own: string,
    rates: readonly DatedRate[]
  ) {
    for (const rate of rates) {
      const known = this.#byCurrency.get(rate.currency) ?? [];
      this.#byCurrency.set(rate.currency, [...known.filter(({ from }) => from !== rate.from), rate]);
    }
    for (const known of this.#byCurrency.values()) known.sort((a, b) => (a.from < b.from ? -1 : 1));
  }

  /**
   * How much of one's own currency one of another is on a day: by the newest rate that holds from that day or before.
   *
   * @param date as ISO 8601, such as `2026-05-04`
   * @returns null before the first rate of that currency, and without one
   * @example new Rates('EUR', [{ currency: 'USD', from: '2026-05-01', rate: 0.9 }]).rateAt('USD', '2026-05-04') // 0.9
   */
  rateAt(currency: string, date: string): number | null {
    if (currency === this.own) return 1;
    return this.#byCurrency.get(currency)?.findLast(({ from }) => from <= date)?.rate ?? null;
  }

  /** The first day, not before a given one, on which a currency has a rate; null where it never has one. */
  firstDay(currency: string, notBefore: string): string | null {
    if (this.rateAt(currency, notBefore) !== null) return notBefore;
    return this.#byCurrency.get(currency)?.[0]?.from ?? null;
  }

  /** An amount of a day in one's own currency, rounded to millionths; null without a rate. */
  inOwn(amount: Micros, currency: string, date: string): Micros | null {
    const rate = this.rateAt(currency, date);
    if (rate === null) return null;
    if (rate === 1) return amount;
    return micros(Math.sign(amount) * Math.round(Math.abs(amount) * rate));
  }
}

/**
 * The same rates for another currency of one's own: what each currency was worth on a day in the one, divided by what the other was worth on it.
 *
 * @param own the currency in which the rates are
 * @returns from the first day on which the other currency has a rate; none where it has none
 * @example ratesInto('CHF', 'EUR', [{ currency: 'CHF', from: '2026-05-01', rate: 1.25 }]) // [{ currency: 'EUR', from: '2026-05-01', rate: 0.8 }]
 */
export function ratesInto(currency: string, own: string, rates: readonly DatedRate[]): DatedRate[] {
  const known = new Rates(own, rates);
  const others = [...new Set([own, ...rates.map((rate) => rate.currency)])].filter((one) => one !== currency);
  const days = [...new Set(rates.map(({ from }) => from))].sort();
  return others.flatMap((other) => {
    let last: number | null = null;
    return days.flatMap((from) => {
      const [of, by] = [known.rateAt(other, from), known.rateAt(currency, from)];
      const rate = of === null || by === null ? null : of / by;
      if (rate === null || rate === last) return [];
      last = rate;
      return [{ currency: other, from, rate }];
    });
  });
}
