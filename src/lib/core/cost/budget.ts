import { z } from 'zod';
import { severities, severityBalls, type Severity } from '../alarm/severity';
import { idSchema } from '../forms/id';
import type { StoredForm } from '../forms/stored';
import { serviceByKey } from '../services';
import { plainDimensions } from './cost-selection';
import { costBases, dateOf, dayOf, unknownService, type DayNumber } from './bill';
import type { CostDimension, CostFilter } from './cost-report';
import { isCurrency } from './money';
import { monthAfter, monthAt, monthOf } from './month';
import { aboutMoney, dayWords } from './words';

/** Days of a period of one's own, at most. */
const mostPeriodDays = 366;

/** For how long an amount is. */
export const budgetPeriodSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('month') }),
  z.strictObject({ kind: z.literal('quarter') }),
  z.strictObject({
    kind: z.literal('own'),
    /** The first day of one of the periods, which follow each other. */
    from: z.iso.date({ error: 'Give the first day of a period, such as 2026-05-04.' }),
    days: z
      .int({ error: 'A period has whole days.' })
      .min(1, { error: 'A period has at least one day.' })
      .max(mostPeriodDays, { error: `A period has at most ${mostPeriodDays} days.` })
  })
]);
export type BudgetPeriod = z.infer<typeof budgetPeriodSchema>;

const dimension = z
  .string()
  .max(210)
  .refine((text) => (plainDimensions as readonly string[]).includes(text) || text.startsWith('label:'))
  .transform((text) => text as CostDimension);

/** What a share of the amount is raised as. */
export const budgetLevelSchema = z.strictObject({
  severity: z.enum(severities),
  percent: z
    .number({ error: 'Give the share of the amount in per cent.' })
    .positive({ error: 'A share is above 0 %.' })
    .max(10_000)
});

/**
 * An amount for some costs and a period.
 *
 * @example
 * budgetSchema.parse({ name: 'All accounts', amount: 18000, currency: 'EUR', period: { kind: 'month' }, on: 'expected',
 *   levels: [{ severity: 'major', percent: 100 }] }).basis // 'amortised'
 */
export const budgetSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the budget a name: its alarm has it as well.' }).max(120),
  enabled: z.boolean().default(true),
  /** What costs are kept: those that have one of the values in each; all without any. */
  filters: z
    .array(z.strictObject({ by: dimension, values: z.array(z.string().max(1000)).min(1).max(200) }))
    .max(10)
    .default([]),
  basis: z.enum(costBases).default('amortised'),
  amount: z
    .number({ error: 'Give the amount.' })
    .positive({ error: 'An amount is above 0.' })
    .max(1_000_000_000, { error: 'An amount is at most a billion.' }),
  currency: z.string().refine(isCurrency, { error: 'A currency is a code of ISO 4217, such as EUR.' }),
  period: budgetPeriodSchema,
  /** Whether it is about what is expected at the end of the period, or what is billed already. */
  on: z.enum(['expected', 'actual']),
  /** The mildest first. */
  levels: z
    .array(budgetLevelSchema)
    .min(1, { error: 'Give a share of the amount at which it is raised.' })
    .max(4)
    .refine(
      (levels) =>
        levels.every(
          ({ severity, percent }, index) =>
            index === 0 ||
            (severityBalls(severity) > severityBalls(levels[index - 1]?.severity as Severity) &&
              percent > (levels[index - 1]?.percent ?? 0))
        ),
      { error: 'A graver severity needs a larger share; each is used once.' }
    ),
  /** Who is notified; null for the first route of the list that takes it. */
  route: idSchema.nullable().default(null)
});
export type Budget = z.infer<typeof budgetSchema>;

export const budgetForm: StoredForm<Budget> = { what: 'The budget', version: 1, schema: budgetSchema, upgrades: [] };

/** The metrics of a budget, both as shares of its amount in per cent. */
export const budgetMetrics = { spent: 'budget.spent', expected: 'budget.expected' } as const;

/** A period, from its first day to the one after its last. */
export interface PeriodSpan {
  readonly from: DayNumber;
  readonly to: DayNumber;
}

/** The period that a day is in. @example periodAt({ kind: 'quarter' }, dayOf('2026-11-29')) // 1 October to 1 January */
export function periodAt(period: BudgetPeriod, day: DayNumber): PeriodSpan {
  switch (period.kind) {
    case 'month': {
      const { from, to } = monthAt(day);
      return { from, to };
    }
    case 'quarter': {
      const [year, month] = dateOf(day).split('-').map(Number) as [number, number, number];
      const first = monthOf(`${year}-${String(Math.floor((month - 1) / 3) * 3 + 1).padStart(2, '0')}`);
      return { from: first.from, to: monthAfter(first, 3).from };
    }
    case 'own': {
      const since = Math.floor((day - dayOf(period.from)) / period.days) * period.days;
      const from = (dayOf(period.from) + since) as DayNumber;
      return { from, to: (from + period.days) as DayNumber };
    }
    default:
      throw new TypeError(`periodAt: unknown ${JSON.stringify(period satisfies never)}`);
  }
}

/** How a budget stands in a period. Amounts are in its currency. */
export interface BudgetStanding {
  readonly period: PeriodSpan;
  /** What is billed, up to a day. */
  readonly spent: number;
  /** The first day that is not billed. */
  readonly until: DayNumber;
  /** What the period is expected to cost; null where there are too few days to go by. */
  readonly expected: number | null;
}

/** The level that a budget has reached; null for none. @example levelOf(budget, { …, expected: 21_300 })?.severity // 'major' */
export function levelOf(
  { amount, levels, on }: Pick<Budget, 'amount' | 'levels' | 'on'>,
  { spent, expected }: Pick<BudgetStanding, 'spent' | 'expected'>
): Budget['levels'][number] | null {
  const value = on === 'actual' ? spent : expected;
  if (value === null) return null;
  return levels.findLast(({ percent }) => (value / amount) * 100 > percent) ?? null;
}

/** The period in words, within a sentence. @example periodWords({ kind: 'own', from: '2026-05-04', days: 14 }) // '14 days' */
export const periodWords = (period: BudgetPeriod): string =>
  period.kind === 'own' ? (period.days === 1 ? 'day' : `${period.days} days`) : period.kind;

/** Which costs a budget is for, in words. @example scopeWords([]) // 'all accounts' */
export function scopeWords(filters: readonly CostFilter[], names: Readonly<Record<string, string>> = {}): string {
  if (filters.length === 0) return 'all accounts';
  const valueWords = (by: CostDimension, value: string): string => {
    if (value === '') return `no ${by.startsWith('label:') ? by.slice('label:'.length) : by}`;
    if (by === 'service') return value === unknownService ? 'no service' : serviceByKey(value).title;
    if (by === 'resource') return names[value] ?? value.split('\n')[1] ?? value;
    return by.startsWith('label:') ? `${by.slice('label:'.length)} ${value}` : value;
  };
  return filters.map(({ by, values }) => values.map((value) => valueWords(by, value)).join(' or ')).join(' in ');
}

/** What a budget is exceeded by, as a sentence. @example budgetWords(budget) // 'Databases is expected to pass €500 a month.' */
export function budgetWords({ filters, on, amount, currency, period }: Budget): string {
  const scope = scopeWords(filters);
  const [is, has] = filters.length === 0 ? ['are', 'have'] : ['is', 'has'];
  const passes = on === 'expected' ? `${is} expected to pass` : `${has} passed`;
  return `${scope[0]?.toUpperCase()}${scope.slice(1)} ${passes} ${aboutMoney(amount, currency)} a ${periodWords(period)}.`;
}

/** A span of days in words. @example spanWords(monthOf('2026-11')) // '1 Nov to 30 Nov' */
export const spanWords = ({ from, to }: PeriodSpan): string =>
  to - from === 1 ? dayWords(dateOf(from)) : `${dayWords(dateOf(from))} to ${dayWords(dateOf((to - 1) as DayNumber))}`;
