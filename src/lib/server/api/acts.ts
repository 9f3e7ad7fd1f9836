import { stringify } from 'csv-stringify/sync';
import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { instantFromText, textFromInstant, type Instant } from '$lib/core/time';
import { listActs, meansOfActs, outcomes } from '../audit/acts';
import { instant, operationsOf } from './operation';
import { placeOf, readList } from './paging';

const operation = operationsOf('Audit');

const actAnswer = z.object({
  id: z.int(),
  at: instant,
  personId: z.int().nullable(),
  by: z.string(),
  means: z.enum(meansOfActs),
  act: z.string(),
  what: z.string(),
  subject: z.string(),
  path: z.string(),
  outcome: z.enum(outcomes),
  address: z.string()
});
const instantOrNull = (text: string | undefined): Instant | null => (text === undefined ? null : instantFromText(text));

export const actOperations = [
  operation('GET', '/acts', {
    list: readList('acts', { usual: 200, most: 5000 }),
    types: ['text/csv'],
    right: 'administrator',
    isAct: true,
    summary: 'Reads who did what, the newest first. Accept text/csv for a table.',
    query: z.strictObject({
      text: z.string().max(200).optional().describe('A part of a name, of what was done, or of an address.'),
      person: z.coerce.number().pipe(idSchema).optional(),
      outcome: z.enum(outcomes).optional(),
      from: z.iso.datetime({ offset: true }).optional(),
      to: z.iso.datetime({ offset: true }).optional()
    }),
    answer: z.object({ acts: z.array(actAnswer) }),
    handle: async ({ server: { db }, query, page, request }) => {
      const { text = null, person = null, outcome = null, from, to } = query;
      const [before = null] = placeOf(page, 1) ?? [];
      const within = { from: instantOrNull(from), to: instantOrNull(to) };
      const acts = await listActs(db, { text, personId: person, outcome, ...within }, page.limit, before);
      if (!(request.headers.get('accept') ?? '').includes('text/csv')) return { acts };
      const rows = acts.map(({ at, by, means, what, subject, outcome: ended, address, act }) => ({
        ...{ at: textFromInstant(at), by, means, what, subject, outcome: ended, address, act }
      }));
      const csv = stringify(rows, { header: true, escape_formulas: true });
      return new Response(csv, {
        headers: {
          'content-type': 'text/csv; charset=utf-8; header=present',
          'content-disposition': 'attachment; filename="acts.csv"'
        }
      });
    }
  })
];
