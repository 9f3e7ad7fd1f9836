import { z } from 'zod';
import {
  costBases,
  dateOf,
  datedRateSchema,
  dayOf,
  isCurrency,
  micros,
  monthOf,
  plainDimensions,
  textOfMicros,
  type CostDimension,
  type CostReport,
  type DayNumber,
  type Micros
} from '$lib/core/cost';
import { Refusal } from '$lib/core/problem/problem';
import { allRates, costSettings } from '../cost/cost-settings';
import { billStandings, costFindings, costMonth } from '../cost/cost-view';
import { exportBills } from '../cost/export-bills';
import { importBills, removeRate, setCurrency, setRate } from '../cost/manage-costs';
import { bodyBytes } from '../http/body-bytes';
import { allAccounts } from '../inventory/accounts';
import { operationsOf } from './operation';

const operation = operationsOf('Costs');

/** A file of bills has so many bytes at most, packed or not; days of one file that leaves. */
const [mostFileBytes, mostDays] = [15 * 1024 ** 2, 400];

const amount = z.string().describe('A decimal number, exact to the millionth.');
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
    .regex(/^\d{4}-(0[1-9]|1[0-2])$/, { error: 'A month such as 2026-11.' })
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
  unrated: z.record(z.string(), amount).describe('What has no rate and is in no figure, by currency.')
});
const days = (values: Float64Array) =>
  [...values].map((value) => (Number.isNaN(value) ? null : textOfMicros(micros(value))));
const reportOf = ({ total, days: of, groups, others, unrated }: CostReport) => ({
  ...{ total: textOfMicros(total), days: days(of) },
  groups: groups.map((group) => ({ ...group, total: textOfMicros(group.total), days: days(group.days) })),
  others: { count: others.count, total: textOfMicros(others.total) },
  unrated: Object.fromEntries(Object.entries(unrated).map(([currency, sum]) => [currency, textOfMicros(sum)]))
});
const rejectedAnswer = z.object({
  count: z.int(),
  first: z.array(z.object({ line: z.int(), why: z.string() })).describe('The first of them.')
});

const isGzip = (file: Uint8Array): boolean => file[0] === 0x1f && file[1] === 0x8b;

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
      earlier: reportAnswer.omit({ groups: true, days: true }),
      forecast: z
        .object({ expected: z.number(), low: z.number(), high: z.number() })
        .nullable()
        .describe('At the end of the month; four of five months end between low and high.')
    }),
    handle: async ({ server, body }) => {
      const { month, currency, until, report, earlier, forecast } = await costMonth(server, body);
      const { total, others, unrated } = reportOf(earlier);
      return {
        ...{ month: month.name, currency, until: dateOf(until), report: reportOf(report) },
        earlier: { total, others, unrated },
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
    summary: 'Sets the currency that costs are shown in. Rates into the one before are removed.',
    body: z.strictObject({
      currency: z.string().refine(isCurrency, { error: 'A currency is a code of ISO 4217, such as EUR.' })
    }),
    answer: z.object({ removedRates: z.int() }),
    handle: async ({ server, body: { currency }, author }) => ({
      removedRates: await setCurrency(server, currency, author.displayName)
    })
  }),
  operation('GET', '/bills', {
    right: 'viewer',
    scope: 'read',
    summary: 'Lists how the bills of accounts stand.',
    answer: z.object({
      bills: z.array(
        z.object({
          ...{ accountId: z.int(), account: z.string() },
          oldest: date.nullable(),
          newest: date.nullable(),
          error: z.object({ message: z.string(), remedy: z.string() }).nullable(),
          rejected: rejectedAnswer.nullable()
        })
      )
    }),
    handle: async ({ server: { db } }) => ({
      bills: (await billStandings(db)).map(({ oldest, newest, error, rejected, ...bill }) => ({
        ...{ ...bill, rejected },
        oldest: oldest === null ? null : dateOf(oldest),
        newest: newest === null ? null : dateOf(newest),
        error: error && { message: error.message, remedy: error.remedy }
      }))
    })
  }),
  operation('GET', '/bills/focus', {
    right: 'viewer',
    scope: 'read',
    summary: 'Writes bills as a FOCUS 1.0 file in CSV.',
    query: z.strictObject({
      month: z.string().optional().describe('A month such as 2026-11, in place of from and to.'),
      from: date.optional(),
      to: date.optional().describe('The day after the last.'),
      account: z.string().optional().describe('The name of an account; all without it.')
    }),
    isAct: true,
    handle: async ({ server, query }) => {
      const span = spanOf(query);
      const accounts = (await allAccounts(server.db)).filter(
        ({ name }) => query.account === undefined || name === query.account
      );
      if (query.account !== undefined && accounts.length === 0)
        throw new Refusal(
          'not-found',
          `There is no account ${query.account.slice(0, 100)}.`,
          'See the list of accounts.'
        );
      const titleOf = (provider: string) => server.providers[provider]?.name ?? provider;
      const rows = exportBills(server.costs, accounts, span, titleOf);
      const encoder = new TextEncoder();
      const stream = new ReadableStream<Uint8Array>({
        pull: async (controller) => {
          const next = await rows.next();
          if (next.done === true) controller.close();
          else controller.enqueue(encoder.encode(next.value));
        },
        cancel: async () => void (await rows.return(undefined))
      });
      return new Response(stream, {
        headers: {
          'content-type': 'text/csv; charset=utf-8; header=present',
          'content-disposition': `attachment; filename="costs-${dateOf(span.from)}.csv"`
        }
      });
    }
  }),
  operation('POST', '/bills/preview', {
    right: 'administrator',
    isAct: false,
    summary: 'Reads a FOCUS file in CSV, packed with gzip or not, and says what is in it. Nothing is stored.',
    answer: z.object({
      rows: z.int(),
      rejected: rejectedAnswer,
      accounts: z.array(
        z.object({
          ...{ name: z.string(), provider: z.string(), from: date, to: date.describe('The day after the last.') },
          ...{ entries: z.int(), totals: z.record(z.string(), amount) }
        })
      )
    }),
    handle: async ({ server, request }) => {
      const file = await bodyBytes(request, mostFileBytes);
      const { rows, rejected, accounts } = await server.costs.files.preview(file, isGzip(file));
      return {
        ...{ rows, rejected },
        accounts: accounts.map(({ from, to, totals, ...account }) => ({
          ...{ ...account, from: dateOf(from), to: dateOf(to) },
          totals: textsOf(totals)
        }))
      };
    }
  }),
  operation('POST', '/bills/import', {
    right: 'administrator',
    summary: 'Imports a FOCUS file in CSV: of each account, the days that the file has are replaced.',
    query: z.strictObject({
      accounts: z
        .string()
        .max(100_000)
        .transform((text, context) => {
          const read = wantedAccounts(text);
          if (read !== null) return read;
          context.addIssue({
            code: 'custom',
            message: 'Give a JSON object: ids of accounts by their names in the file.'
          });
          return z.NEVER;
        })
        .describe('A JSON object: ids of accounts by their names in the file.')
    }),
    answer: z.object({
      rejected: rejectedAnswer,
      accounts: z.array(
        z.object({ name: z.string(), entries: z.int(), changed: z.int().describe('Days that changed.') })
      )
    }),
    handle: async ({ server, query: { accounts }, request }) => {
      const file = await bodyBytes(request, mostFileBytes);
      return importBills(server, file, isGzip(file), accounts);
    }
  })
];

const textsOf = (totals: Readonly<Record<string, Micros>>): Record<string, string> =>
  Object.fromEntries(Object.entries(totals).map(([currency, sum]) => [currency, textOfMicros(sum)]));

function wantedAccounts(text: string): Record<string, number> | null {
  try {
    return z.record(z.string(), z.int().positive()).parse(JSON.parse(text));
  } catch {
    return null;
  }
}

function spanOf({
  month,
  from,
  to
}: {
  month?: string | undefined;
  from?: string | undefined;
  to?: string | undefined;
}) {
  if (month !== undefined && /^\d{4}-(0[1-9]|1[0-2])$/.test(month)) return monthOf(month);
  if (month !== undefined || from === undefined || to === undefined)
    throw new Refusal('invalid', 'The days are missing.', 'Give month, such as 2026-11, or from and to.');
  const span: { from: DayNumber; to: DayNumber } = { from: dayOf(from), to: dayOf(to) };
  if (span.to <= span.from || span.to - span.from > mostDays)
    throw new Refusal('invalid', `A file has 1 to ${mostDays} days.`, 'Give a day after from as to.');
  return span;
}
