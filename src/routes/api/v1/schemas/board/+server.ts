import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { boardFileSchema, fileVersion } from '$lib/core/board/file';
import type { RequestHandler } from './$types';

const published = {
  ...z.toJSONSchema(boardFileSchema, { io: 'input', unrepresentable: 'any' }),
  title: `Bussola board, as a file of version ${fileVersion}`,
  description: 'A board with its pickers, sections and panels; every panel holds its signals.'
};

/** The JSON Schema of boards as files. */
export const GET: RequestHandler = () => json(published, { headers: { 'content-type': 'application/schema+json' } });
