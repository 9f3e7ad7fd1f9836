import { z } from 'zod';
import {
  costBases,
  dateOf,
  datedRateSchema,
  isCurrency,
  isMonth,
  micros,
  plainDimensions,
  textOfMicros,
  type CostDimension,
  type CostReport
} from '$lib/core/cost';
import { allRates, costSettings } from '../cost/cost-settings';
import { costFindings, costMonth } from '../cost/cost-view';
import { removeRate, setCurrency, setRate } from '../cost/manage-costs';
import { operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Costs');

/** An amount in an answer. */
export const amount = z.string().describe('A decimal number, exact to the millionth.');
const date = z.iso.date();
const dimension = z
  .string()
  .regex(new RegExp(`^(?:${plainDimensions.join('|')}|label:.{1,200})$`), {
    error: `One of ${plainDimensions.join(', ')}, or label: with a key.`
  })
  .transform((text) => text as CostDimension);
const asked = z.strictObject({
  month: z
    .string()
    .max(7)
    .refine(isMonth, { error: 'A month such as 2026-11.' })
    .nullable()
    .default(null)
    .describe('Null for the month of now.'),
  by: dimension.default('service'),
  basis: z
    .enum(costBases)
    .default('amortised')
    .describe('Whether what was paid up front counts on the day of its bill, or is spread.'),
  filters: z
    .array(z.strictObject({ by: dimension, values: z.array(z.string().max(1000)).min(1).max(200) }))
    .max(10)
    .default([])
});
const reportAnswer = z.object({
  total: amount,
  days: z.array(amount.nullable()).describe('One a day; null without a bill.'),
  groups: z.array(z.object({ value: z.string(), title: z.string(), total: amount, days: z.array(amount.nullable()) })),
  others: z.object({ count: z.int(), total: amount }).describe('Further groups, put together.'),
  unrated: z.record(z.string(), amount).describe('What has no rate and is not included, by currency.')
});
const days = (values: Float64Array) =>
  [...values].map((value) => (Number.isNaN(value) ? null : textOfMicros(micros(value))));
const reportOf = ({ total, days: of, groups, others, unrated }: CostReport) => ({
  ...{ total: textOfMicros(total), days: days(of) },
  groups: groups.map((group) => ({ ...group, total: textOfMicros(group.total), days: days(group.days) })),
  others: { count: others.count, total: textOfMicros(others.total) },
  unrated: Object.fromEntries(Object.entries(unrated).map(([currency, sum]) => [currency, textOfMicros(sum)]))
});
export const costOperations = [
  operation('POST', '/costs/query', {
    right: 'viewer',
    scope: 'read',
    summary:
      'Adds up the costs of a month by anything, with those of the same days of the month before and what is expected.',
    body: asked,
    answer: z.object({
      month: z.string(),
      currency: z.string(),
      until: date.describe('The first day that is not billed by all accounts.'),
      report: reportAnswer,
      earlier: z
        .object({ total: amount, groups: z.record(z.string(), amount) })
        .describe('On the same days of the month before; of the groups that are listed, by their values.'),
      forecast: z
        .object({ expected: z.number(), low: z.number(), high: z.number() })
        .nullable()
        .describe('At the end of the month; four of five months end between low and high.')
    }),
    handle: async ({ server, body }) => {
      const { month, currency, until, report, earlier, forecast } = await costMonth(server, body);
      return {
        ...{ month: month.name, currency, until: dateOf(until), report: reportOf(report) },
        earlier: {
          total: textOfMicros(earlier.total),
          groups: Object.fromEntries([...earlier.groups].map(([value, sum]) => [value, textOfMicros(sum)]))
        },
        forecast: forecast && { expected: forecast.expected, low: forecast.low, high: forecast.high }
      };
    }
  }),
  operation('GET', '/costs/findings', {
    right: 'viewer',
    scope: 'read',
    summary:
      'Lists what changed its cost by more than its own noise this month, and resources that cost money and do nothing.',
    answer: z.object({
      changes: z.array(
        z.object({
          ...{ account: z.string(), resource: z.string().nullable(), name: z.string(), usage: z.string() },
          since: date,
          before: z.number().describe('A day, in the own currency.'),
          after: z.number(),
          marks: z.array(z.string())
        })
      ),
      idle: z.array(
        z.object({
          ...{ resourceId: z.int(), name: z.string(), account: z.string(), evidence: z.string() },
          ...{ since: z.iso.datetime(), cost: z.number().describe('Of the last 30 days.') }
        })
      )
    }),
    handle: async ({ server }) => {
      const month = await costMonth(server, { month: null, by: 'account', basis: 'amortised', filters: [] });
      const { changes, idle } = await costFindings(server, { ...month, basis: 'amortised' });
      return {
        changes: changes.map(({ item, day, before, after, marks }) => ({
          ...{ account: item.account, resource: item.resource, name: item.resourceName, usage: item.usage },
          ...{ since: dateOf(day), before, after, marks: marks.map(({ text }) => text) }
        })),
        idle: idle.map(({ resourceId, name, account, words, since, cost }) => ({
          ...{ resourceId, name, account, evidence: words, since: new Date(since).toISOString(), cost }
        }))
      };
    }
  }),
  operation('GET', '/costs/rates', {
    list: wholeList('rates', ({ currency, from }: { currency: string; from: string }) => [currency, from]),
    right: 'viewer',
    scope: 'read',
    summary: 'Reads the currency that costs are shown in, and the rates of others.',
    answer: z.object({
      currency: z.string(),
      rates: z.array(z.object({ currency: z.string(), from: date, rate: z.number(), setBy: z.string() }))
    }),
    handle: async ({ server: { db } }) => ({ currency: (await costSettings(db)).currency, rates: await allRates(db) })
  }),
  operation('PUT', '/costs/rates', {
    right: 'administrator',
    summary: 'Sets how much of the own currency one of another is, from a day on.',
    body: datedRateSchema,
    handle: ({ server, body, author }) => setRate(server, body, author.displayName)
  }),
  operation('DELETE', '/costs/rates', {
    right: 'administrator',
    summary: 'Removes a rate: the one before it holds again.',
    query: z.strictObject({ currency: z.string().length(3), from: date }),
    handle: ({ server, query }) => removeRate(server, query)
  }),
  operation('PUT', '/costs/currency', {
    right: 'administrator',
    summary: 'Sets the currency that costs are shown in. Rates become rates into it.',
    body: z.strictObject({
      currency: z.string().refine(isCurrency, { error: 'A currency is a code of ISO 4217, such as EUR.' })
    }),
    handle: ({ server, body: { currency }, author }) => setCurrency(server, currency, author.displayName)
  })
];
