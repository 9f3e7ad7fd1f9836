import { z } from 'zod';
import { problemsOf } from '$lib/core/forms/problems';
import { Refusal } from '$lib/core/problem/problem';
import { scopeSchema, shelvingSchema } from '$lib/core/shelving';
import { instantFromText } from '$lib/core/time';
import { addShelving, endNow } from '../shelving/manage-shelvings';
import { currentShelvings, heldBack, type StoredShelving } from '../shelving/shelvings';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Routes and rotas');

const shelvingAnswer = z.object({
  id: z.int(),
  kind: z.enum(['shelved', 'maintenance']),
  reason: z.string(),
  scope: scopeSchema,
  from: instant,
  to: instant,
  recurs: z.string().nullable(),
  zone: z.string(),
  active: z.boolean().describe('Whether it is in force.'),
  changesAt: instant.nullable().describe('When it begins or ends next.'),
  createdAt: instant,
  createdBy: z.string()
});
const answerOf = ({ id, shelving, active, changesAt, createdAt, createdBy }: StoredShelving) => ({
  ...shelving,
  ...{ id, active, changesAt, createdAt, createdBy }
});
const time = z.iso.datetime({ offset: true });

export const shelvingOperations = [
  operation('GET', '/shelvings', {
    list: wholeList('shelvings'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists what is shelved or in maintenance, now or later, with how many incidents are held back.',
    answer: z.object({
      shelvings: z.array(
        shelvingAnswer.extend({ held: z.object({ open: z.int(), clear: z.int() }).describe('Incidents held back.') })
      )
    }),
    handle: async ({ server: { db } }) => {
      const held = await heldBack(db);
      return {
        shelvings: (await currentShelvings(db)).map((one) => ({
          ...answerOf(one),
          held: held.find(({ shelvingId }) => shelvingId === one.id) ?? { open: 0, clear: 0 }
        }))
      };
    }
  }),
  operation('POST', '/shelvings', {
    right: 'editor',
    summary:
      'Shelves alarms, resources, services, groups or labels for a time: incidents are shown, messages are held back.',
    body: z.strictObject({
      kind: z.enum(['shelved', 'maintenance']).default('shelved'),
      reason: z.string(),
      scope: scopeSchema,
      from: time.optional().describe('Now by default.'),
      to: time,
      recurs: z.string().nullable().default(null).describe('A recurrence by RFC 5545, such as FREQ=WEEKLY;BYDAY=SU.'),
      zone: z.string().default('UTC')
    }),
    answer: shelvingAnswer,
    status: 201,
    handle: async ({ server, body: { from, to, ...rest }, author }) => {
      const begin = from === undefined ? server.clock.now() : instantFromText(from);
      const read = shelvingSchema.safeParse({ ...rest, from: begin, to: instantFromText(to) });
      if (!read.success) {
        const [first] = problemsOf(read.error);
        throw new Refusal('invalid', first?.message ?? '', 'Change it, then try again.', {
          path: first === undefined ? [] : first.path.split('.')
        });
      }
      return answerOf(await addShelving(server, read.data, author.displayName));
    }
  }),
  operation('DELETE', '/shelvings/{id}', {
    right: 'editor',
    summary: 'Ends a shelving before its time. Of what is still raised, people are notified.',
    handle: ({ server, params: { id }, author }) => endNow(server, id, author.displayName)
  })
];
