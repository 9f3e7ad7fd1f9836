import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { Refusal } from '$lib/core/problem/problem';
import { instantFromText } from '$lib/core/time';
import { forgetExpiredLink } from '../boards/links';
import { permittedBoard } from '../boards/permit';
import { allRemovals } from '../removals/removals';
import { restore } from '../removals/resting';
import { madeBy } from '../tidy/made';
import { unusedThings, type Unused } from '../tidy/unused';
import { usedKinds, usesOf } from '../tidy/uses';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Tidying up');

const unused = z.object({
  ...{ id: z.int(), name: z.string() },
  at: instant.nullable().describe('When it was last of use; null where that is not known, or never.')
});
const unusedOf = (all: readonly Unused[]) => all.map(({ id, name, at }) => ({ id, name, at }));

/** Things that one answer lists at most. */
const mostMade = 500;
/** Removals that one answer has at most. */
const mostRemovals = 500;

const removal = z.object({
  ...{ id: z.int(), kind: z.string(), thingId: z.int(), name: z.string() },
  removedAt: instant,
  removedBy: z.string(),
  rows: z.int().describe('Rows of the database that went with it, or lost what they named.')
});

export const tidyOperations = [
  operation('GET', '/uses', {
    list: wholeList('uses', ({ kind, id }: { kind: string; id: number }) => [kind, id]),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists what uses something: whatever names it, and would lose it if it were removed.',
    query: z.object({ kind: z.enum(usedKinds), id: z.coerce.number().pipe(idSchema) }),
    answer: z.object({ uses: z.array(z.object({ kind: z.string(), id: z.int(), name: z.string() })) }),
    handle: async ({ server, query: { kind, id }, reader }) => {
      // Of a private board nobody else learns anything.
      if (kind === 'board') await permittedBoard(server.db, reader, id, 'view');
      return { uses: await usesOf(server.db, kind, id) };
    }
  }),
  operation('GET', '/unused', {
    right: 'viewer',
    scope: 'read',
    summary:
      'Lists what nobody uses: channels without a route, alarms that never or always are raised, boards that nobody opened and keys that were not used for 90 days, links that expired, people who may not sign in any more, metrics that are collected and looked at by nothing.',
    answer: z.object({
      ...{ channels: z.array(unused), neverRaised: z.array(unused), alwaysRaised: z.array(unused) },
      boards: z.array(z.object({ id: z.int(), title: z.string(), at: instant })),
      ...{ keys: z.array(unused), links: z.array(unused), people: z.array(unused) },
      metrics: z.array(
        z.object({
          ...{ name: z.string(), title: z.string(), service: z.string(), series: z.int() },
          samplesADay: z.int().describe('By how often its series are sampled.')
        })
      )
    }),
    handle: async ({ server }) => {
      const found = await unusedThings(server.db, server.clock.now());
      return {
        channels: unusedOf(found.channels),
        neverRaised: unusedOf(found.neverRaised),
        alwaysRaised: unusedOf(found.alwaysRaised),
        // Of a private board, nobody else reads the title.
        boards: found.boards.map(({ id, title, reach, at }) => ({
          ...{ id, title: reach === 'private' ? 'a private board' : title },
          at
        })),
        keys: unusedOf(found.keys),
        links: unusedOf(found.links),
        people: unusedOf(found.people),
        metrics: [...found.metrics]
      };
    }
  }),
  operation('GET', '/made', {
    list: wholeList('made', ({ kind, id }: { kind: string; id: number }) => [kind, id]),
    right: 'viewer',
    scope: 'read',
    summary: `Lists what somebody made since an instant, the newest first: at most ${mostMade}. Of kinds whose makers are not stored, what they changed last.`,
    query: z.strictObject({
      by: z.string().max(120).optional().describe('What they are called; whoever asks where it is left out.'),
      since: z.iso.datetime({ offset: true }),
      text: z.string().max(120).default('').describe('A part of its name, or of a label such as team=quay.')
    }),
    answer: z.object({
      made: z.array(
        z.object({
          kind: z.string().describe('The first part of its address: DELETE /{kind}/{id} removes it.'),
          ...{ id: z.int(), name: z.string(), at: instant }
        })
      )
    }),
    handle: async ({ server: { db }, query: { by, since, text }, author, reader }) => ({
      made: await madeBy(
        db,
        { by: by ?? author.displayName, since: instantFromText(since), text, readerId: reader?.id ?? 0 },
        mostMade
      )
    })
  }),
  operation('DELETE', '/board-links/{id}', {
    right: 'editor',
    summary: 'Forgets a link of a board that expired.',
    handle: async ({ server: { db, clock }, params: { id } }) => {
      if (!(await forgetExpiredLink(db, id, clock.now())))
        throw new Refusal('not-found', 'No such link has expired.', 'One that is still good is ended on its board.');
    }
  }),
  operation('GET', '/removals', {
    list: wholeList('removals'),
    right: 'viewer',
    scope: 'read',
    summary: `Lists what was removed and can be restored, newest first: at most ${mostRemovals}.`,
    answer: z.object({ removals: z.array(removal) }),
    handle: async ({ server: { db }, reader }) => ({ removals: await allRemovals(db, reader?.id ?? 0, mostRemovals) })
  }),
  operation('POST', '/removals/{id}/restore', {
    // Whoever may remove it may restore it: see removals/resting.ts.
    right: 'viewer',
    scope: 'change',
    summary: 'Restores what was removed as it was, with what went with it. An alarm is judged anew.',
    answer: removal,
    handle: ({ server, params: { id }, reader }) => restore(server, id, reader ?? { id: 0, role: 'viewer' })
  })
];
