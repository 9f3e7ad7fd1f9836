import { z } from 'zod';
import { dateOf, dayOf, isMonth, monthOf, textOfMicros, type DayNumber, type Micros } from '$lib/core/cost';
import { jsonOrNull } from '$lib/core/forms/json';
import { Refusal } from '$lib/core/problem/problem';
import { billStandings } from '../cost/cost-view';
import { exportBills } from '../cost/export-bills';
import { importBills } from '../cost/manage-costs';
import { bodyBytes } from '../http/body-bytes';
import { allAccounts } from '../inventory/accounts';
import { amount } from './costs';
import { operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Costs');

/** A file of bills has so many bytes at most, packed or not; days of one file that leaves. */
const [mostFileBytes, mostDays] = [15 * 1024 ** 2, 400];

const date = z.iso.date();
const rejectedAnswer = z.object({
  count: z.int(),
  first: z.array(z.object({ line: z.int(), why: z.string() })).describe('The first of them.')
});

const isGzip = (file: Uint8Array): boolean => file[0] === 0x1f && file[1] === 0x8b;

export const billOperations = [
  operation('GET', '/bills', {
    list: wholeList('bills', ({ accountId }: { accountId: number }) => [accountId]),
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
    types: ['text/csv'],
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
    takesFile: true,
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
      const { rows, rejected, accounts } = await server.costs.bills.preview(file, isGzip(file), server.clock.now());
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
    takesFile: true,
    summary: 'Imports a FOCUS file in CSV: of each account, the days that the file has are replaced.',
    query: z.strictObject({
      accounts: z
        .string()
        .max(100_000)
        .transform(jsonOrNull)
        .pipe(
          z.record(z.string(), z.int().positive(), {
            error: 'Give a JSON object: ids of accounts by their names in the file.'
          })
        )
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
      const imported = await importBills(server, file, isGzip(file), new Map(Object.entries(accounts)));
      return {
        rejected: imported.rejected,
        accounts: imported.accounts.map(({ name, entries, changed }) => ({ name, entries, changed: changed.length }))
      };
    }
  })
];

const textsOf = (totals: Readonly<Record<string, Micros>>): Record<string, string> =>
  Object.fromEntries(Object.entries(totals).map(([currency, sum]) => [currency, textOfMicros(sum)]));

function spanOf({
  month,
  from,
  to
}: {
  month?: string | undefined;
  from?: string | undefined;
  to?: string | undefined;
}) {
  if (month !== undefined && isMonth(month)) return monthOf(month);
  if (month !== undefined || from === undefined || to === undefined)
    throw new Refusal('invalid', 'The days are missing.', 'Give month, such as 2026-11, or from and to.');
  const span: { from: DayNumber; to: DayNumber } = { from: dayOf(from), to: dayOf(to) };
  if (span.to <= span.from || span.to - span.from > mostDays)
    throw new Refusal('invalid', `A file has 1 to ${mostDays} days.`, 'Give a day after from as to.');
  return span;
}
