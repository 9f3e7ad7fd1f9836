import { z } from 'zod';
import { boardOf, boardRights, differencesOf, sharingSchema, summaryOf, type Board } from '$lib/core/board';
import { boardFile, boardFileSchema, fileFormats } from '$lib/core/board/file';
import { idSchema } from '$lib/core/forms/id';
import { Refusal } from '$lib/core/problem/problem';
import { roles } from '$lib/core/people/rights';
import { after, day, times } from '$lib/core/time';
import { allFolders, folderNameSchema, makeFolder, moveBoard, removeFolder, renameFolder } from '../boards/folders';
import { removeBoard, versionOfBoard, versionsOfBoard, type BoardSharing, type StoredBoard } from '../boards/boards';
import { favouriteSchema, setFavourite } from '../boards/favourites';
import { applyFile, fileSchema, mostFileBytes, planFile } from '../boards/files';
import {
  addPanel,
  changedBoardSchema,
  changedSignalSchema,
  changeSignal,
  saveBoard,
  makeBoard,
  newBoardSchema,
  newPanelSchema
} from '../boards/save-board';
import { countMiss, countUse } from '../boards/link-limits';
import { boardOfLink, linksOfBoard, makeLink, revokeLink } from '../boards/links';
import { noSuchBoard, noSuchLink } from '../boards/not-found';
import { permittedBoard, summariesFor, type BoardNeed } from '../boards/permit';
import { changeSharing } from '../boards/change-sharing';
import { sharedQueries, sharedQueriesSchema } from '../boards/shared';
import { reportPresence } from '../boards/presence';
import { allPeople } from '../people/people';
import { answerQueries } from '../query/query';
import { answerListSchema } from './answers';
import { asStored, idParams, instant, operationsOf, type Call } from './operation';

const operation = operationsOf('Boards');

/** The board of a call, when the caller may do with it what the operation does. */
const boardFor = (
  { server, params, reader }: Pick<Call<{ id: number }, unknown, unknown>, 'server' | 'params' | 'reader'>,
  need: BoardNeed
): Promise<StoredBoard> => permittedBoard(server.db, reader, params.id, need);

const storedBoard = z.looseObject({
  id: z.int(),
  title: z.string(),
  version: z.int().describe('Send it with a change, which is refused when somebody else changed the board meanwhile.'),
  changedAt: instant,
  changedBy: z.string(),
  sharing: asStored<BoardSharing>(sharingSchema)
});
const boardContent = asStored<Board>(boardFileSchema);
const plan = z.object({
  kind: z.literal('plan'),
  board: boardContent,
  into: z.object({ id: z.int(), title: z.string(), version: z.int() }).nullable(),
  differences: z.array(z.string()),
  unknown: z.array(
    z.object({
      of: z.enum(['metric', 'value']),
      label: z.string(),
      name: z.string(),
      candidates: z.array(z.string())
    })
  )
});

const folder = z.object({ id: z.int(), name: z.string() });

export const boardOperations = [
  operation('GET', '/boards', {
    right: 'viewer',
    scope: 'read',
    summary: 'Lists the boards that the caller may see, without their content.',
    answer: z.object({
      boards: z.array(
        z.looseObject({
          id: z.int(),
          title: z.string(),
          version: z.int(),
          changedAt: instant,
          changedBy: z.string(),
          panels: z.array(z.string()),
          may: z.enum(boardRights)
        })
      )
    }),
    handle: async ({ server, reader }) => ({
      boards: (await summariesFor(server.db, reader)).map(({ board, may }) => ({ ...board, may }))
    })
  }),
  operation('GET', '/folders', {
    right: 'viewer',
    scope: 'read',
    summary: 'Lists the folders that people made for boards.',
    answer: z.object({ folders: z.array(folder) }),
    handle: async ({ server }) => ({ folders: await allFolders(server.db) })
  }),
  operation('POST', '/folders', {
    right: 'editor',
    summary: 'Makes a folder for boards.',
    body: folderNameSchema,
    answer: folder,
    status: 201,
    handle: ({ server: { db, clock }, body: { name }, author }) => makeFolder(db, name, author.displayName, clock.now())
  }),
  operation('PUT', '/folders/{id}', {
    right: 'editor',
    summary: 'Renames a folder.',
    body: folderNameSchema,
    answer: folder,
    handle: ({ server: { db }, params: { id }, body: { name } }) => renameFolder(db, id, name)
  }),
  operation('DELETE', '/folders/{id}', {
    right: 'editor',
    summary: 'Removes a folder. Its boards stay, in the folder of their service.',
    handle: ({ server: { db }, params: { id } }) => removeFolder(db, id)
  }),
  operation('POST', '/boards', {
    right: 'editor',
    summary: 'Makes a board of a title and signals, or of a whole board.',
    body: newBoardSchema,
    answer: storedBoard,
    status: 201,
    handle: async ({ server, body, author }) => ({ ...(await makeBoard(server, body, author)) })
  }),
  operation('POST', '/boards/plan', {
    right: 'editor',
    summary: 'Shows what importing a file would change and which names in it are unknown. Nothing is changed.',
    body: fileSchema,
    mostBytes: mostFileBytes,
    answer: plan,
    handle: ({ server, body, reader }) => planFile(server, reader, body)
  }),
  operation('POST', '/boards/apply', {
    right: 'editor',
    summary: 'Imports a file: makes a board, or changes the one that is meant.',
    body: fileSchema,
    mostBytes: mostFileBytes,
    answer: plan.extend({ kept: storedBoard }),
    handle: async ({ server, body, reader, author }) => {
      const done = await applyFile(server, reader, body, author);
      return { ...done, kept: { ...done.kept } };
    }
  }),
  operation('GET', '/boards/{id}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads a board.',
    answer: storedBoard,
    handle: async (call) => ({ ...(await boardFor(call, 'view')) })
  }),
  operation('PUT', '/boards/{id}', {
    right: 'viewer',
    summary: 'Replaces a board. Refused as changed-meanwhile when its version is not the one that was sent.',
    body: changedBoardSchema,
    answer: storedBoard,
    handle: async (call) => {
      const { id } = await boardFor(call, 'edit');
      return { ...(await saveBoard(call.server, id, call.body, call.author)) };
    }
  }),
  operation('PUT', '/boards/{id}/folder', {
    right: 'viewer',
    summary: 'Moves a board into a folder, or out of any.',
    body: z.strictObject({ folder: idSchema.nullable() }),
    handle: async (call) => moveBoard(call.server.db, (await boardFor(call, 'edit')).id, call.body.folder)
  }),
  operation('DELETE', '/boards/{id}', {
    right: 'viewer',
    summary: 'Removes a board.',
    handle: async (call) => removeBoard(call.server.db, (await boardFor(call, 'govern')).id)
  }),
  operation('POST', '/boards/{id}/panels', {
    right: 'viewer',
    summary: 'Adds a panel to a board.',
    body: newPanelSchema,
    answer: storedBoard,
    status: 201,
    handle: async (call) => {
      const { id } = await boardFor(call, 'edit');
      const kept = await addPanel(call.server, id, call.body, call.author);
      if (kept === null) throw noSuchBoard();
      return { ...kept };
    }
  }),
  operation('PUT', '/boards/{id}/panels/{panel}', {
    right: 'viewer',
    summary: 'Replaces the signal of a panel.',
    params: idParams.extend({ panel: z.string().min(1).max(60) }),
    body: changedSignalSchema,
    answer: storedBoard,
    handle: async (call) => {
      const { id } = await boardFor(call, 'edit');
      const kept = await changeSignal(call.server, id, call.params.panel, call.body.signal, call.author);
      if (kept === null)
        throw new Refusal('not-found', 'The panel is no longer on the board.', 'Send the signal as a new panel.');
      return { ...kept };
    }
  }),
  operation('GET', '/boards/{id}/file', {
    right: 'viewer',
    scope: 'read',
    summary: 'Exports a board as a file.',
    query: z.object({ format: z.enum(fileFormats).default('yaml') }),
    answer: boardContent,
    handle: async (call) => {
      const { format } = call.query;
      const board = boardOf(await boardFor(call, 'view'));
      const name = board.title.replace(/[^A-Za-z0-9 _-]/g, '').trim() || 'board';
      return new Response(boardFile(board, format), {
        headers: {
          'content-type': format === 'json' ? 'application/json' : 'application/yaml; charset=utf-8',
          'content-disposition': `attachment; filename="${name}.${format}"`
        }
      });
    }
  }),
  operation('GET', '/boards/{id}/versions', {
    right: 'viewer',
    scope: 'read',
    summary: 'Lists the versions of a board, newest first, each with what became different.',
    answer: z.object({
      versions: z.array(z.object({ version: z.int(), madeAt: instant, madeBy: z.string(), summary: z.string() }))
    }),
    handle: async (call) => {
      const { id } = await boardFor(call, 'view');
      const versions = await versionsOfBoard(call.server.db, id);
      return {
        versions: versions.map(({ version, madeAt, madeBy, board }, index) => {
          const before = versions[index + 1]?.board;
          return {
            version,
            madeAt,
            madeBy,
            summary: before ? summaryOf(differencesOf(before, board)) : 'First version'
          };
        })
      };
    }
  }),
  operation('GET', '/boards/{id}/versions/{version}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads one version of a board.',
    params: idParams.extend({ version: z.coerce.number().pipe(idSchema) }),
    answer: z.object({ version: z.int(), madeAt: instant, madeBy: z.string(), board: boardContent }),
    handle: async (call) => {
      const { id } = await boardFor(call, 'view');
      const version = await versionOfBoard(call.server.db, id, call.params.version);
      if (version === null)
        throw new Refusal('not-found', 'This version is no longer there.', 'See the versions of the board.');
      return version;
    }
  }),
  operation('GET', '/boards/{id}/sharing', {
    right: 'viewer',
    summary: 'Reads with whom a board is shared, whom it could be shared with, and its links.',
    answer: z.object({
      sharing: asStored<BoardSharing>(sharingSchema),
      people: z.array(z.object({ id: z.int(), displayName: z.string(), role: z.enum(roles) })),
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
      const [people, links] = await Promise.all([allPeople(db), linksOfBoard(db, id, clock.now())]);
      return {
        sharing,
        people: people.map(({ id: of, displayName, role }) => ({ id: of, displayName, role })),
        links
      };
    }
  }),
  operation('PUT', '/boards/{id}/sharing', {
    right: 'viewer',
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
    summary: 'Revokes a link.',
    params: idParams.extend({ link: z.coerce.number().pipe(idSchema) }),
    handle: async (call) => {
      const { id } = await boardFor(call, 'govern');
      await revokeLink(call.server.db, id, call.params.link, call.server.clock.now());
    }
  }),
  operation('PUT', '/boards/{id}/favourite', {
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
      const bytes = await inTurn(
        (reader) => answerQueries(server, { ...queries, times: format }, reader),
        `link ${link.id}`
      );
      return new Response(bytes as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'application/json' } });
    }
  })
];
