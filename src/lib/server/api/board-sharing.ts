import { z } from 'zod';
import { sharingSchema } from '$lib/core/board';
import { idSchema } from '$lib/core/forms/id';
import { roles } from '$lib/core/people/rights';
import { after, day, times } from '$lib/core/time';
import { changeSharing } from '../boards/change-sharing';
import { favouriteSchema, setFavourite } from '../boards/favourites';
import { countMiss, countUse } from '../boards/link-limits';
import { boardOfLink, linksOfBoard, makeLink, revokeLink } from '../boards/links';
import { noSuchBoard, noSuchLink } from '../boards/not-found';
import { reportPresence } from '../boards/presence';
import { sharedQueries, sharedQueriesSchema } from '../boards/shared';
import { teamOfBoard } from '../workspace/teams';
import { allPeople } from '../people/people';
import { answerQueries } from '../query/query';
import { answerListSchema, boardSharingAnswer } from './answers';
import { boardFor } from './board-of-call';
import { idParams, instant, operationsOf } from './operation';

const operation = operationsOf('Boards');

/** Who else sees a board, by right or by link, who is on it, and whose favourite it is. */
export const boardSharingOperations = [
  operation('GET', '/boards/{id}/sharing', {
    right: 'viewer',
    scope: 'change',
    summary: 'Reads with whom a board is shared, whom it could be shared with, and its links.',
    answer: z.object({
      sharing: boardSharingAnswer,
      people: z.array(z.object({ id: z.int(), displayName: z.string(), role: z.enum(roles) })),
      teamId: z.int().nullable(),
      links: z.array(
        z.object({
          id: z.int(),
          madeAt: instant,
          madeBy: z.string(),
          expiresAt: instant,
          revokedAt: instant.nullable()
        })
      )
    }),
    handle: async (call) => {
      const { id, sharing } = await boardFor(call, 'govern');
      const { db, clock } = call.server;
      const [people, links, teamId] = await Promise.all([
        allPeople(db),
        linksOfBoard(db, id, clock.now()),
        teamOfBoard(db, id)
      ]);
      return {
        sharing,
        teamId,
        people: people.map(({ id: of, displayName, role }) => ({ id: of, displayName, role })),
        links
      };
    }
  }),
  operation('PUT', '/boards/{id}/sharing', {
    right: 'viewer',
    scope: 'change',
    summary: 'Changes with whom a board is shared.',
    body: sharingSchema,
    answer: z.object({ sharing: sharingSchema }),
    handle: async (call) => {
      const board = await boardFor(call, 'govern');
      await changeSharing(call.server, board, call.body);
      return { sharing: call.body };
    }
  }),
  operation('POST', '/boards/{id}/links', {
    right: 'viewer',
    scope: 'change',
    summary: 'Makes a read-only link to a board. Its address is shown once.',
    body: z.strictObject({
      days: z.int().min(1).max(365).describe('How long the link is valid.'),
      choices: z.record(z.string().max(40), z.array(z.string().max(200)).max(200)).default({})
    }),
    answer: z.object({ id: z.int(), expiresAt: instant, address: z.string() }),
    status: 201,
    handle: async (call) => {
      const { id } = await boardFor(call, 'govern');
      const { db, clock, origin } = call.server;
      const now = clock.now();
      const expiresAt = after(now, times(call.body.days, day));
      const made = await makeLink(db, id, call.body.choices, expiresAt, call.author.displayName, now);
      return { id: made.id, expiresAt, address: `${origin}/shared/${made.token}` };
    }
  }),
  operation('DELETE', '/boards/{id}/links/{link}', {
    right: 'viewer',
    scope: 'change',
    summary: 'Revokes a link.',
    params: idParams.extend({ link: z.coerce.number().pipe(idSchema) }),
    handle: async (call) => {
      const { id } = await boardFor(call, 'govern');
      await revokeLink(call.server.db, id, call.params.link, call.server.clock.now());
    }
  }),
  operation('PUT', '/boards/{id}/favourite', {
    isAct: false,
    right: 'viewer',
    summary: 'Adds a board to the favourites of the person, or removes it.',
    body: favouriteSchema,
    answer: favouriteSchema,
    handle: async (call) => {
      const { id } = await boardFor(call, 'view');
      await setFavourite(call.server.db, id, call.reader?.id ?? 0, call.body.favourite);
      return call.body;
    }
  }),
  operation('POST', '/boards/{id}/presence', {
    isAct: false,
    right: 'viewer',
    summary: 'Reports that the person is on the board, and lists who else is.',
    body: z.strictObject({ editing: z.boolean(), panel: z.string().max(40).nullable() }),
    answer: z.object({
      others: z.array(z.object({ name: z.string(), editing: z.boolean(), panel: z.string().nullable() }))
    }),
    handle: async (call) => {
      const { id } = await boardFor(call, 'view');
      const { db, clock } = call.server;
      const others = await reportPresence(db, id, { id: call.reader?.id ?? 0, ...call.body }, clock.now());
      if (others === null) throw noSuchBoard();
      return { others };
    }
  }),
  operation('POST', '/shared/{token}/queries', {
    isAct: false,
    right: 'anybody',
    summary: 'Evaluates signals of the board of a link, and of nothing else.',
    params: z.strictObject({ token: z.string().min(1).max(200) }),
    body: sharedQueriesSchema,
    answer: answerListSchema,
    handle: async ({ server, params, body, times: format, address, inTurn }) => {
      const link = await boardOfLink(server.db, params.token, server.clock.now());
      if (link === null) {
        await countMiss(address);
        throw noSuchLink();
      }
      await countUse(link.id);
      const queries = await sharedQueries(server.db, link, body);
      const of = { board: link.board.id, panels: body.asks.map(({ panel }) => panel) };
      const bytes = await inTurn(
        (reader) => answerQueries(server, { ...queries, of, times: format }, reader),
        `link ${link.id}`
      );
      return new Response(bytes as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'application/json' } });
    }
  })
];
