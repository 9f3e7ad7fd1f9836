import { boardOf } from '$lib/core/board';
import { boardFile, fileFormats } from '$lib/core/board/file';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** The board as a file: `?format=yaml` or `json`. */
export const GET: RequestHandler = ({ params, locals, url }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'view', (kept) => {
    const format = fileFormats.find((one) => one === url.searchParams.get('format')) ?? 'yaml';
    const board = boardOf(kept);
    const name = board.title.replace(/[^A-Za-z0-9 _-]/g, '').trim() || 'board';
    return new Response(boardFile(board, format), {
      headers: {
        'content-type': format === 'json' ? 'application/json' : 'application/yaml; charset=utf-8',
        'content-disposition': `attachment; filename="${name}.${format}"`
      }
    });
  });
