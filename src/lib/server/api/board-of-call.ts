import { permittedBoard, type BoardNeed } from '../boards/permit';
import type { StoredBoard } from '../boards/boards';
import type { Call } from './operation';

/** The board of a call, when the caller may do with it what the operation does. */
export const boardFor = (
  { server, params, reader }: Pick<Call<{ id: number }, unknown, unknown>, 'server' | 'params' | 'reader'>,
  need: BoardNeed
): Promise<StoredBoard> => permittedBoard(server.db, reader, params.id, need);
