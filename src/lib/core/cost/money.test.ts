import { expect } from 'chai';
import fc from 'fast-check';
import { addMicros, isCurrency, micros, microsFromText, moneyText, textOfMicros, type Micros } from './money';
import { datedRateSchema, Rates, ratesInto, type DatedRate } from './rates';

const amounts = fc.integer({ min: -9_000_000_000_000_000, max: 9_000_000_000_000_000 }).map(micros);

describe('money', () => {
  it('is read from files to the millionth, however it is written', () => {
    const read = (text: string) => microsFromText(text);
    expect(['12.5', '-0.1', '.5', '7.', '1.2e-3', '1E3', '+3', ' 4 ', '0'].map(read)).to.deep.equal([
      12_500_000, -100_000, 500_000, 7_000_000, 1200, 1_000_000_000, 3_000_000, 4_000_000, 0
    ]);
    expect(['0.0000005', '-0.0000005', '0.0000004', '1e-40'].map(read)).to.deep.equal([1, -1, 0, 0]);
    for (const text of ['', '.', '-', '1,5', '0x1', 'NaN', 'Infinity', '1e', '1e999', '9'.repeat(30), '1 2'])
      expect(read(text), text).to.equal(null);
  });

  it('is written so that it is read back equal', () => {
    fc.assert(
      fc.property(amounts, (amount) => {
        expect(microsFromText(textOfMicros(amount))).to.equal(amount);
      })
    );
    expect([-1_250_000, 0, 7, 3_000_000].map((one) => textOfMicros(micros(one)))).to.deep.equal([
      '-1.25',
      '0',
      '0.000007',
      '3'
    ]);
  });

  it('adds up exactly, in any order, as whole numbers without bounds do', () => {
    const some = fc.array(fc.integer({ min: -1e12, max: 1e12 }).map(micros), { maxLength: 200 });
    fc.assert(
      fc.property(some, (all) => {
        const sum = (of: readonly Micros[]) => of.reduce(addMicros, micros(0));
        expect(BigInt(sum(all))).to.equal(all.reduce((total, one) => total + BigInt(one), 0n));
        expect(sum(all.toReversed())).to.equal(sum(all));
      })
    );
    expect(() => addMicros(micros(Number.MAX_SAFE_INTEGER), micros(1))).to.throw(RangeError, 'whole number');
    expect(() => micros(0.5)).to.throw(RangeError, 'got 0.5');
  });

  it('is shown with the digits of its currency', () => {
    expect(moneyText(micros(1_234_500_000), 'EUR')).to.equal('€1,234.50');
    expect(moneyText(micros(1_234_500_000), 'JPY')).to.equal('¥1,235');
    expect([isCurrency('EUR'), isCurrency('XYZ1'), isCurrency('eur')]).to.deep.equal([true, false, false]);
  });
});

describe('rates', () => {
  const rates = new Rates('EUR', [
    { currency: 'USD', from: '2026-05-10', rate: 0.8 },
    { currency: 'USD', from: '2026-05-01', rate: 0.9 },
    { currency: 'USD', from: '2026-05-10', rate: 0.85 }
  ]);

  it('hold from their day on, the last word of a day counts, and before the first there is none', () => {
    const on = (date: string) => rates.rateAt('USD', date);
    expect(['2026-04-30', '2026-05-01', '2026-05-09', '2026-05-10', '2027-01-01'].map(on)).to.deep.equal([
      null,
      0.9,
      0.9,
      0.85,
      0.85
    ]);
    expect([rates.rateAt('EUR', '1999-01-01'), rates.rateAt('JPY', '2026-05-10')]).to.deep.equal([1, null]);
  });

  it('turn an amount into one’s own to the millionth, a refund as the payment was', () => {
    expect(rates.inOwn(micros(1_000_001), 'USD', '2026-05-01')).to.equal(900_001);
    expect(rates.inOwn(micros(7), 'EUR', '2026-05-01')).to.equal(7);
    expect(rates.inOwn(micros(7), 'JPY', '2026-05-01')).to.equal(null);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e12 }), (amount) => {
        const of = (one: number) => rates.inOwn(micros(one), 'USD', '2026-05-10') as number;
        expect(of(-amount) + of(amount)).to.equal(0);
      })
    );
  });

  it('go over into another currency, so that an amount is worth the same on every day from its first rate on', () => {
    const given = fc.array(
      fc.record({
        currency: fc.constantFrom('CHF', 'NOK', 'JPY'),
        from: fc.constantFrom('2026-01-01', '2026-03-01', '2026-05-01', '2026-07-01'),
        rate: fc.double({ min: 0.001, max: 1000, noNaN: true })
      }),
      { maxLength: 10 }
    );
    fc.assert(
      fc.property(given, (rates: DatedRate[]) => {
        const before = new Rates('EUR', rates);
        const after = new Rates('CHF', ratesInto('CHF', 'EUR', rates));
        for (const date of ['2025-12-31', '2026-01-01', '2026-04-15', '2026-05-01', '2027-01-01'])
          for (const currency of ['EUR', 'NOK', 'JPY']) {
            const [of, by, found] = [
              before.rateAt(currency, date),
              before.rateAt('CHF', date),
              after.rateAt(currency, date)
            ];
            if (of === null || by === null) expect(found).to.equal(null);
            else expect(found).to.be.closeTo(of / by, 1e-9 * (of / by));
          }
      })
    );
    expect(ratesInto('NOK', 'EUR', [{ currency: 'CHF', from: '2026-05-01', rate: 1.25 }])).to.deep.equal([]);
  });

  it('say what is wrong with them', () => {
    const problems = (rate: object) =>
      datedRateSchema.safeParse(rate).error?.issues.map(({ message }) => message) ?? [];
    expect(problems({ currency: 'USD', from: '2026-02-30', rate: 0 })).to.deep.equal([
      'Give the day from which the rate holds, such as 2026-05-04.',
      'A rate is above 0.'
    ]);
    expect(problems({ currency: 'usd', from: '2026-02-01', rate: 1 })).to.deep.equal([
      'A currency is a code of ISO 4217, such as EUR.'
    ]);
  });
});
