import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { catalogueStates } from '$lib/core/catalogue';
import { problemsOf } from '$lib/core/forms/problems';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const searchSchema = z.object({
  text: z.string().max(200).default(''),
  state: z.enum([...catalogueStates, 'pushed']).optional(),
  service: z.string().max(60).optional(),
  most: z.coerce.number().int().min(1).max(500).default(60)
});

/** The catalogue: `?text=&state=&service=&most=` in, `{ found, metrics }` out, best first. */
export const GET: RequestHandler = async ({ url }) => {
  const read = searchSchema.safeParse(Object.fromEntries(url.searchParams));
  if (!read.success)
    return json({ message: 'The search cannot be read.', problems: problemsOf(read.error) }, { status: 400 });
  const { most, ...filter } = read.data;
  const found = (await bussola().catalogue.search()).find(filter);
  return json({ found: found.length, metrics: found.slice(0, most) });
};
