import { z } from 'zod';
import { fileText, readFileText, type FileForm, type FileFormat, type UnreadableFile } from '../forms/file';
import { agree, boardShape, type Board } from './schema';

const fileVersion = 1;

/** A board as a file: what it is, of which version, and the board itself, without who made it or whom it belongs to. */
export const boardFileSchema = z
  .strictObject({ kind: z.literal('board'), version: z.literal(fileVersion), ...boardShape })
  .superRefine(agree);

const boardFileForm: FileForm<z.infer<typeof boardFileSchema>> = {
  kind: 'board',
  what: 'a board',
  version: fileVersion,
  schema: boardFileSchema
};

export type ReadBoardFile = { readonly kind: 'read'; readonly board: Board } | UnreadableFile;

/** The order of keys in files; others follow as they come. */
const keyOrder = [
  'kind',
  'version',
  'id',
  'name',
  'title',
  'about',
  'service',
  'step',
  'zone',
  'label',
  'picture',
  'section',
  'place',
  'x',
  'y',
  'w',
  'h',
  'pickers',
  'sections',
  'panels'
];

/**
 * A board as the text of a file: keys in a fixed order, nothing that is as usual, so that the same board gives the same text everywhere.
 *
 * @example boardFile({ title: 'Tickets', pickers: [], sections: [], panels: [] }, 'yaml') // 'kind: board\nversion: 1\ntitle: Tickets\npanels: []\n'
 */
export function boardFile(board: Board, format: FileFormat): string {
  const { pickers, sections, ...rest } = board;
  const plain = {
    kind: 'board',
    version: fileVersion,
    ...rest,
    ...(pickers.length > 0 ? { pickers } : {}),
    ...(sections.length > 0 ? { sections } : {})
  };
  return fileText(plain, format, keyOrder);
}

/**
 * Reads the text of a board's file.
 *
 * @example readBoardFile('kind: board\nversion: 1\ntitle: Tickets\npanels: []').kind // 'read'
 */
export function readBoardFile(text: string): ReadBoardFile {
  const read = readFileText(text, boardFileForm);
  if (read.kind === 'unreadable') return read;
  const { kind: _, version: _v, ...board } = read.content;
  return { kind: 'read', board };
}
