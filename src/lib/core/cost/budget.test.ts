import { expect } from 'chai';
import fc from 'fast-check';
import { problemsOf } from '../forms/problems';
import {
  budgetSchema,
  levelOf,
  periodAt,
  periodWords,
  scopeWords,
  spanWords,
  type Budget,
  type BudgetPeriod
} from './budget';
import { dateOf, dayOf, type DayNumber } from './bill';

const given = {
  ...{ name: 'All accounts', amount: 18_000, currency: 'EUR', period: { kind: 'month' }, on: 'expected' },
  levels: [
    { severity: 'minor', percent: 90 },
    { severity: 'major', percent: 100 }
  ]
};
const budget = budgetSchema.parse(given);
const problems = (more: object) => {
  const read = budgetSchema.safeParse({ ...given, ...more });
  return read.success ? [] : problemsOf(read.error).map(({ path, message }) => `${path}: ${message}`);
};

describe('a budget', () => {
  it('says what is wrong with it', () => {
    expect(problems({ name: ' ' })).to.deep.equal(['name: Give the budget a name: its alarm has it as well.']);
    expect(problems({ amount: 0 })).to.deep.equal(['amount: An amount is above 0.']);
    expect(problems({ period: { kind: 'own', from: '2026-02-30', days: 400 } })).to.deep.equal([
      'period.from: Give the first day of a period, such as 2026-05-04.',
      'period.days: A period has at most 366 days.'
    ]);
    expect(problems({ levels: [] })).to.deep.equal(['levels: Give a share of the amount at which it is raised.']);
    const falling = [given.levels[1], given.levels[0]];
    expect(problems({ levels: falling })).to.deep.equal([
      'levels: A graver severity needs a larger share; each is used once.'
    ]);
  });

  it('is for a month, a quarter, or days of one’s own that follow each other', () => {
    const at = (period: BudgetPeriod, date: string) => {
      const { from, to } = periodAt(period, dayOf(date));
      return [dateOf(from), dateOf(to)];
    };
    expect(at({ kind: 'month' }, '2026-02-28')).to.deep.equal(['2026-02-01', '2026-03-01']);
    expect(at({ kind: 'quarter' }, '2026-11-29')).to.deep.equal(['2026-10-01', '2027-01-01']);
    expect(at({ kind: 'own', from: '2026-05-04', days: 14 }, '2026-05-17')).to.deep.equal(['2026-05-04', '2026-05-18']);
    expect(at({ kind: 'own', from: '2026-05-04', days: 14 }, '2026-05-03')).to.deep.equal(['2026-04-20', '2026-05-04']);
  });

  it('has every day in one period, which begins where the one before ended', () => {
    const periods = fc.oneof(
      fc.constantFrom<BudgetPeriod>({ kind: 'month' }, { kind: 'quarter' }),
      fc.record({
        kind: fc.constant('own' as const),
        from: fc.constantFrom('2024-02-29', '2026-05-04'),
        days: fc.integer({ min: 1, max: 366 })
      })
    );
    fc.assert(
      fc.property(periods, fc.integer({ min: 15_000, max: 30_000 }), (period, day) => {
        const { from, to } = periodAt(period, day as DayNumber);
        expect(from <= day && day < to).to.equal(true);
        expect(periodAt(period, from)).to.deep.equal({ from, to });
        expect(periodAt(period, to).from).to.equal(to);
      })
    );
  });

  it('is raised by the gravest share that is passed, of what it is about', () => {
    const severity = (one: Pick<Budget, 'amount' | 'levels' | 'on'>, spent: number, expected: number | null) =>
      levelOf(one, { spent, expected })?.severity ?? null;
    expect([16_000, 16_200, 16_300, 18_000, 18_001].map((expected) => severity(budget, 0, expected))).to.deep.equal([
      null,
      null,
      'minor',
      'minor',
      'major'
    ]);
    expect([severity(budget, 20_000, null), severity({ ...budget, on: 'actual' }, 20_000, null)]).to.deep.equal([
      null,
      'major'
    ]);
  });

  it('is told in words', () => {
    expect(scopeWords([])).to.equal('all accounts');
    expect(
      scopeWords([
        { by: 'service', values: ['databases', 'objects'] },
        { by: 'account', values: ['corallo-prod'] }
      ])
    ).to.equal('Databases or Objects in corallo-prod');
    expect(scopeWords([{ by: 'label:team', values: ['booking', ''] }])).to.equal('team booking or no team');
    expect([periodWords({ kind: 'month' }), periodWords({ kind: 'own', from: '2026-05-04', days: 14 })]).to.deep.equal([
      'month',
      '14 days'
    ]);
    expect(spanWords(periodAt({ kind: 'month' }, dayOf('2026-11-05')))).to.equal('1 Nov to 30 Nov');
  });
});
