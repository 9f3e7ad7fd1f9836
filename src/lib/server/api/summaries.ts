import { z } from 'zod';
import { Refusal } from '$lib/core/problem/problem';
import {
  isSummaryDate,
  lastWhole,
  periodTitle,
  periodWith,
  summaryKinds,
  summaryPlanSchema,
  summarySchema,
  summarySentences,
  type Summary
} from '$lib/core/summary';
import { after, isZone, type Range } from '$lib/core/time';
import { countMiss } from '../boards/link-limits';
import type { Bussola } from '../process/start';
import { summaryOf } from '../summary/collect';
import { fileName, linkOf } from '../summary/enclose-summary';
import { addPlan, removePlan, savePlan } from '../summary/manage-plans';
import { allPlans, planById } from '../summary/plans';
import { sendSummary } from '../summary/send-plans';
import { endLink, insertSummary, listSummaries, summaryById, type StoredSummary } from '../summary/summaries';
import { summaryCsv } from '../summary/summary-csv';
import { linkGoodFor, noSuchSummaryLink, summaryOfToken } from '../summary/summary-links';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Summaries');

/** Summaries that one answer lists. */
const mostListed = 200;

const asSchema = z.enum(['json', 'csv', 'pdf']).default('json').describe('CSV has the numbers, the PDF all of it.');
const askedSchema = z.strictObject({
  kind: z.enum(summaryKinds).default('week'),
  of: z.iso
    .date()
    .refine(isSummaryDate, { error: 'Give a date from 2000 on.' })
    .optional()
    .describe('A date in the week or month; the newest one that is over where none is given.'),
  zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as Europe/Rome.' }).default('UTC')
});
type Asked = z.infer<typeof askedSchema>;

const summaryAnswer = z.object({
  name: z.string(),
  title: z.string().describe('Which week or month.'),
  sentences: z.array(z.string()),
  summary: summarySchema.describe('Lengths are in ms, amounts in millionths of the currency, instants in ms.')
});
const storedAnswer = z.object({
  ...{ id: z.int(), planId: z.int().nullable(), name: z.string(), title: z.string() },
  ...{ madeAt: instant, madeBy: z.string(), linkUntil: instant.nullable() },
  link: z.string().nullable().describe('By which anybody reads it until then.')
});
const planAnswer = z.object({
  ...{ id: z.int(), plan: summaryPlanSchema, version: z.int() },
  ...{ changedAt: instant, changedBy: z.string(), nextAt: instant.nullable().describe('When it is sent next.') }
});

function periodAsked({ clock }: Pick<Bussola, 'clock'>, { kind, of, zone }: Asked): Range {
  const now = clock.now();
  const period = of === undefined ? lastWhole(kind, now, zone) : periodWith(kind, of, zone);
  if (period.from > now)
    throw new Refusal('invalid', `This ${kind} has not begun yet.`, 'Give a date that is over.', { path: ['of'] });
  return period;
}

const titleOf = (summary: Summary): string => periodTitle(summary.kind, summary, summary.zone);

/** A summary in the form that is asked for. @param draw it, where it is to be a PDF */
async function answered(
  name: string,
  summary: Summary,
  as: 'json' | 'csv' | 'pdf',
  draw: () => Promise<{ readonly pdf: Buffer }>
): Promise<z.infer<typeof summaryAnswer> | Response> {
  if (as === 'json') return { name, title: titleOf(summary), sentences: summarySentences(summary), summary };
  const body = as === 'csv' ? summaryCsv(summary) : new Uint8Array((await draw()).pdf);
  return new Response(body, {
    headers: {
      'content-type': as === 'csv' ? 'text/csv; charset=utf-8; header=present' : 'application/pdf',
      'content-disposition': `attachment; filename="${fileName({ summary }, as)}"`,
      'cache-control': 'no-store'
    }
  });
}

/** One that is stored. */
const answeredStored = ({ summaries }: Pick<Bussola, 'summaries'>, stored: StoredSummary, as: 'json' | 'csv' | 'pdf') =>
  answered(stored.name, stored.summary, as, () => summaries.drawStored(stored));

const storedOf = (server: Bussola, { id, planId, name, summary, madeAt, madeBy, ...link }: StoredSummary) => ({
  ...{ id, planId, name, title: titleOf(summary), madeAt, madeBy, linkUntil: link.linkUntil },
  link: linkOf(server, { id, ...link })
});

const noSuchSummary = () =>
  new Refusal('not-found', 'There is no such summary.', 'It may be older than is stored. See all summaries.');

/** @throws Refusal `not-found` */
async function required(server: Bussola, id: number): Promise<StoredSummary> {
  const found = await summaryById(server.db, id);
  if (found === null) throw noSuchSummary();
  return found;
}

export const summaryOperations = [
  operation('GET', '/summary', {
    types: ['text/csv', 'application/pdf'],
    right: 'viewer',
    scope: 'read',
    summary: 'Says in plain words, and in numbers, what a week or month came to.',
    query: z.strictObject({ ...askedSchema.shape, as: asSchema }),
    answer: summaryAnswer,
    handle: async ({ server, query: { as, ...asked }, inTurn }) => {
      const period = periodAsked(server, asked);
      const summary = await inTurn(() => summaryOf(server, asked.kind, period, asked.zone));
      return answered('Summary', summary, as, () => server.summaries.draw('Summary', summary));
    }
  }),
  operation('GET', '/summaries', {
    list: wholeList('summaries'),
    right: 'viewer',
    scope: 'read',
    summary: `Lists summaries that were sent or that a link leads to, newest first: at most ${mostListed}.`,
    answer: z.object({ summaries: z.array(storedAnswer) }),
    handle: async ({ server }) => ({
      summaries: (await listSummaries(server.db, mostListed)).map((one) => storedOf(server, one))
    })
  }),
  operation('POST', '/summaries', {
    right: 'editor',
    summary: 'Stores the summary of a week or month, and makes a link by which anybody reads it for 90 days.',
    body: z.strictObject({ ...askedSchema.shape, name: z.string().trim().min(1).max(120).default('Summary') }),
    answer: storedAnswer,
    status: 201,
    handle: async ({ server, body: { name, ...asked }, author, inTurn }) => {
      const { db, clock, changes } = server;
      const period = periodAsked(server, asked);
      const summary = await inTurn(() => summaryOf(server, asked.kind, period, asked.zone));
      const now = clock.now();
      const made = await insertSummary(db, {
        ...{ planId: null, name, summary, madeAt: now, madeBy: author.displayName, linkUntil: after(now, linkGoodFor) }
      });
      changes.tell('summaries', {});
      return storedOf(server, made);
    }
  }),
  operation('GET', '/summaries/{id}', {
    types: ['text/csv', 'application/pdf'],
    right: 'viewer',
    scope: 'read',
    summary: 'Reads a summary as it was sent.',
    query: z.strictObject({ as: asSchema }),
    answer: summaryAnswer,
    handle: async ({ server, params: { id }, query: { as } }) => {
      return answeredStored(server, await required(server, id), as);
    }
  }),
  operation('DELETE', '/summaries/{id}/link', {
    right: 'editor',
    summary: 'Ends the link of a summary: whoever has it reads nothing any more.',
    handle: async ({ server, params: { id } }) => {
      await required(server, id);
      await endLink(server.db, id);
      server.changes.tell('summaries', {});
    }
  }),
  operation('GET', '/read/{token}', {
    types: ['text/csv', 'application/pdf'],
    right: 'anybody',
    summary: 'Reads the summary of a link.',
    params: z.strictObject({ token: z.string().min(1).max(200) }),
    query: z.strictObject({ as: asSchema }),
    answer: summaryAnswer,
    handle: async ({ server, params: { token }, query: { as }, address, inTurn }) => {
      const found = await summaryOfToken(server, token, server.clock.now());
      if (found === null) {
        await countMiss(address);
        throw noSuchSummaryLink();
      }
      return inTurn(() => answeredStored(server, found, as), `summary ${found.id}`);
    }
  }),
  operation('GET', '/summary-plans', {
    list: wholeList('plans'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists summaries that are sent regularly, by name.',
    answer: z.object({ plans: z.array(planAnswer) }),
    handle: async ({ server: { db } }) => ({ plans: await allPlans(db) })
  }),
  operation('POST', '/summary-plans', {
    right: 'editor',
    summary: 'Adds a summary that is sent regularly.',
    body: summaryPlanSchema,
    answer: planAnswer,
    status: 201,
    handle: ({ server, body, author }) => addPlan(server, body, author.displayName)
  }),
  operation('PUT', '/summary-plans/{id}', {
    right: 'editor',
    summary: 'Changes a summary that is sent regularly, unless somebody else has meanwhile.',
    body: z.strictObject({ plan: summaryPlanSchema, version: z.int().min(1) }),
    answer: planAnswer,
    handle: ({ server, params: { id }, body: { plan, version }, author }) =>
      savePlan(server, id, version, plan, author.displayName)
  }),
  operation('DELETE', '/summary-plans/{id}', {
    right: 'editor',
    summary: 'Sends a summary no longer; what was sent is still listed.',
    handle: ({ server, params: { id } }) => removePlan(server, id)
  }),
  operation('POST', '/summary-plans/{id}/send', {
    right: 'editor',
    summary: 'Sends a summary now, of the newest week or month that is over; when it is sent next stays as it is.',
    answer: z.object({ summaryId: z.int(), channels: z.int().describe('To how many channels it was sent.') }),
    handle: async ({ server, params: { id }, author }) => {
      const stored = await planById(server.db, id);
      const sent = stored === null ? null : await sendSummary(server, stored, null, author.displayName);
      if (sent === null) throw noSuchSummary();
      return sent;
    }
  })
];
