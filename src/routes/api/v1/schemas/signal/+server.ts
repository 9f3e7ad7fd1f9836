import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { signalSchema } from '$lib/core/signal';
import type { RequestHandler } from './$types';

const published = {
  ...z.toJSONSchema(signalSchema, { io: 'input', unrepresentable: 'any' }),
  title: 'Bussola signal, version 2',
  description:
    'Which series are picked, brought onto which grid, combined and worked out how, and which rows are shown.'
};

/** The JSON Schema of signals, as they are written. */
export const GET: RequestHandler = () => json(published, { headers: { 'content-type': 'application/schema+json' } });
