import { z } from 'zod';
import { boardOf, boardRights, boardSchema, differencesOf, summaryOf, type Board } from '$lib/core/board';
import { boardFile, boardFileSchema } from '$lib/core/board/file';
import { fileFormats } from '$lib/core/forms/file';
import { idSchema } from '$lib/core/forms/id';
import { Refusal } from '$lib/core/problem/problem';
import { allFolders, folderNameSchema, makeFolder, moveBoard, removeFolder, renameFolder } from '../boards/folders';
import { removeBoard, versionOfBoard, versionsOfBoard } from '../boards/boards';
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
import { noSuchBoard } from '../boards/not-found';
import { summariesFor } from '../boards/permit';
import { boardSharingAnswer } from './answers';
import { boardFor } from './board-of-call';
import { asStored, idParams, instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Boards');

const storedBoard = z.looseObject({
  id: z.int(),
  title: z.string(),
  version: z.int().describe('Send it with a change, which is refused when somebody else changed the board meanwhile.'),
  changedAt: instant,
  changedBy: z.string(),
  sharing: boardSharingAnswer
});
const boardContent = asStored<Board>(boardSchema);
const boardFileContent = asStored<Board>(boardFileSchema);
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
    list: wholeList('boards'),
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
    list: wholeList('folders'),
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
    isAct: false,
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
    scope: 'change',
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
    scope: 'change',
    summary: 'Moves a board into a folder, or out of any.',
    body: z.strictObject({ folder: idSchema.nullable() }),
    handle: async (call) => moveBoard(call.server.db, (await boardFor(call, 'edit')).id, call.body.folder)
  }),
  operation('DELETE', '/boards/{id}', {
    right: 'viewer',
    scope: 'change',
    summary: 'Removes a board.',
    handle: async (call) => removeBoard(call.server.db, (await boardFor(call, 'govern')).id)
  }),
  operation('POST', '/boards/{id}/panels', {
    right: 'viewer',
    scope: 'change',
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
    scope: 'change',
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
    types: ['application/yaml'],
    isAct: true,
    right: 'viewer',
    scope: 'read',
    summary: 'Exports a board as a file.',
    query: z.object({ format: z.enum(fileFormats).default('yaml') }),
    answer: boardFileContent,
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
    list: wholeList('versions'),
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
  })
];
