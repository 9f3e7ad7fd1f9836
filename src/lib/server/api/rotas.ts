import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { rotaSchema, shiftsIn } from '$lib/core/rota';
import { after, day, instantFromText, range, times } from '$lib/core/time';
import { Refusal } from '$lib/core/problem/problem';
import {
  addOverride,
  addRota,
  answerSwap,
  askSwap,
  removeOverride,
  requireRota,
  saveRota
} from '../rotas/manage-rotas';
import { countLinks, makeCalendarLink, mostLinks, removeCalendarLink } from '../rotas/calendar-links';
import { importCalendar } from '../rotas/import-calendar';
import { removeRota } from '../routing/remove-rota';
import { whoHasTheWatch } from '../rotas/on-call';
import { allRotas, overridesIn } from '../rotas/rotas';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Routes and rotas');

const rotaAnswer = z.object({
  id: z.int(),
  version: z.int(),
  rota: rotaSchema,
  changedAt: instant,
  changedBy: z.string()
});
const time = z.iso.datetime({ offset: true });
const span = { from: time, to: time };
/** Days whose shifts one answer lists. */
const mostDays = 400;
const usualDays = 14;

const answers = ['accept', 'decline', 'withdraw'] as const;
const stateAfter = { accept: 'accepted', decline: 'declined', withdraw: 'withdrawn' } as const;

export const rotaOperations = [
  operation('GET', '/rotas', {
    list: wholeList('rotas'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists rotas.',
    answer: z.object({ rotas: z.array(rotaAnswer) }),
    handle: async ({ server: { db } }) => ({ rotas: await allRotas(db) })
  }),
  operation('GET', '/on-call', {
    right: 'viewer',
    scope: 'read',
    summary: 'Says who has the watch now by each rota, until when, and who is next.',
    answer: z.object({
      onCall: z.array(
        z.object({
          rotaId: z.int(),
          rota: z.string(),
          zone: z.string(),
          person: z.string().nullable(),
          personId: z.int().nullable(),
          until: instant.nullable(),
          next: z.string().nullable(),
          gap: z.object({ from: instant, to: instant }).nullable()
        })
      )
    }),
    handle: async ({ server: { db, clock } }) => ({ onCall: await whoHasTheWatch(db, clock.now()) })
  }),
  operation('POST', '/rotas', {
    right: 'editor',
    summary: 'Adds a rota.',
    body: rotaSchema,
    answer: rotaAnswer,
    status: 201,
    handle: ({ server, body, author }) => addRota(server, body, author.displayName)
  }),
  operation('PUT', '/rotas/{id}', {
    right: 'editor',
    summary: 'Changes a rota, from the version that was read.',
    body: z.strictObject({ rota: rotaSchema, version: z.int().min(1) }),
    answer: rotaAnswer,
    handle: ({ server, params: { id }, body: { rota, version }, author }) =>
      saveRota(server, id, rota, version, author.displayName)
  }),
  operation('DELETE', '/rotas/{id}', {
    right: 'editor',
    summary: 'Removes a rota that no route leads to.',
    handle: ({ server, params: { id } }) => removeRota(server, id)
  }),
  operation('GET', '/rotas/{id}/shifts', {
    list: wholeList('shifts', ({ from, personId }: { from: number; personId: number }) => [from, personId]),
    right: 'viewer',
    scope: 'read',
    summary: `Lists who has the watch throughout a range of at most ${mostDays} days, the next two weeks by default; nobody in gaps.`,
    query: z.strictObject({ from: time.optional(), to: time.optional() }),
    answer: z.object({
      shifts: z.array(
        z.object({
          from: instant,
          to: instant,
          personId: z.int().nullable(),
          source: z.looseObject({ kind: z.enum(['layer', 'override', 'nobody']) })
        })
      )
    }),
    handle: async ({ server: { db, clock }, params: { id }, query: { from, to } }) => {
      const begin = from === undefined ? clock.now() : instantFromText(from);
      const end = to === undefined ? after(begin, times(usualDays, day)) : instantFromText(to);
      if (end < begin)
        throw new Refusal('invalid', 'The range ends before it begins.', 'Give the earlier time first.', {
          path: ['to']
        });
      const within = range(begin, end);
      if (within.to - within.from > times(mostDays, day))
        throw new Refusal('invalid', `That is more than ${mostDays} days.`, 'Ask for less at a time.', {
          path: ['to']
        });
      const { rota } = await requireRota(db, id);
      const overrides = (await overridesIn(db, within)).filter(({ rotaId }) => rotaId === id);
      return { shifts: shiftsIn(rota, overrides, within) };
    }
  }),
  operation('POST', '/rotas/{id}/overrides', {
    right: 'editor',
    summary: 'Gives a span of a rota to somebody, whoever has it by the layers.',
    body: z.strictObject({ ...span, personId: idSchema, reason: z.string().trim().max(200).default('') }),
    answer: z.object({ id: z.int() }),
    status: 201,
    handle: async ({ server, params: { id }, body: { from, to, personId, reason }, author }) => ({
      id: await addOverride(
        server,
        id,
        { from: instantFromText(from), to: instantFromText(to), personId, reason },
        author.displayName
      )
    })
  }),
  operation('DELETE', '/overrides/{id}', {
    right: 'editor',
    summary: 'Removes an override of a rota.',
    handle: ({ server, params: { id } }) => removeOverride(server, id)
  }),
  operation('POST', '/rotas/{id}/swaps', {
    right: 'viewer',
    summary: 'Asks somebody to take over a span in which the caller has the watch.',
    body: z.strictObject({ ...span, askedOf: idSchema }),
    answer: z.object({ id: z.int() }),
    status: 201,
    handle: async ({ server, params: { id }, body: { from, to, askedOf }, author }) => ({
      id: await askSwap(server, id, { from: instantFromText(from), to: instantFromText(to), askedOf }, author)
    })
  }),
  operation('POST', '/rotas/{id}/import', {
    right: 'editor',
    summary:
      'Reads who has the watch from an iCalendar file: each entry of the next year that names somebody becomes an override. Nothing is changed unless `apply` is true.',
    body: z.strictObject({ text: z.string(), apply: z.boolean().default(false) }),
    mostBytes: 1_100_000,
    answer: z.object({
      overrides: z.array(z.object({ from: instant, to: instant, personId: z.int() })),
      unknown: z.array(z.object({ from: instant, summary: z.string() }))
    }),
    handle: ({ server, params: { id }, body: { text, apply }, author }) =>
      importCalendar(server, id, text, apply, author.displayName)
  }),
  operation('POST', '/calendars', {
    right: 'viewer',
    summary: 'Makes a secret address at which programs read a calendar: of a rota, or of the shifts of the caller.',
    body: z.strictObject({ rotaId: idSchema.nullable() }),
    answer: z.object({ address: z.string().describe('Shown this once.') }),
    status: 201,
    handle: async ({ server, body: { rotaId }, author }) => {
      if (rotaId !== null) await requireRota(server.db, rotaId);
      else if (author.id === null)
        throw new Refusal('invalid', 'A key has no shifts.', 'Choose a rota.', { path: ['rotaId'] });
      if ((await countLinks(server.db)) >= mostLinks)
        throw new Refusal('invalid', `There are ${mostLinks} addresses, which is the most.`, 'Remove one first.');
      const token = await makeCalendarLink(
        server.db,
        { rotaId, personId: rotaId === null ? author.id : null },
        { at: server.clock.now(), by: author.displayName }
      );
      return { address: `${server.origin}/calendar/${token}.ics` };
    }
  }),
  operation('DELETE', '/calendars/{id}', {
    right: 'editor',
    summary: 'Removes the secret address of a calendar: programs that read it get nothing any more.',
    handle: async ({ server: { db }, params: { id } }) => {
      if (!(await removeCalendarLink(db, id)))
        throw new Refusal('not-found', 'There is no such address.', 'It may have been removed. See the rotas.');
    }
  }),
  operation('POST', '/swaps/{id}/{answer}', {
    right: 'viewer',
    summary: 'Answers a swap: whoever was asked accepts or declines it, whoever asked withdraws it.',
    params: z.strictObject({ id: z.coerce.number().pipe(idSchema), answer: z.enum(answers) }),
    handle: ({ server, params: { id, answer }, author }) => answerSwap(server, id, stateAfter[answer], author)
  })
];
