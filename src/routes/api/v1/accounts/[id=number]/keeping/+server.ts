import { error, json } from '@sveltejs/kit';
import { z } from 'zod';
import { planSchema } from '$lib/core/intake';
import { after, day } from '$lib/core/time';
import { bussola } from '$server/process/running';
import { removalsDue } from '$server/store/retain';
import type { RequestHandler } from './$types';

const keep = planSchema.shape.keep.shape;
const askedSchema = z.object({
  service: z.string().min(1).max(60),
  sampleDays: z.coerce.number().pipe(keep.sampleDays),
  fiveMinuteDays: z.coerce.number().pipe(keep.fiveMinuteDays),
  hourDays: z.coerce.number().pipe(keep.hourDays)
});

/** What would be removed within a day if a service of an account were kept so many days: points and bytes in all. */
export const GET: RequestHandler = async ({ params, url }) => {
  const read = askedSchema.safeParse(Object.fromEntries(url.searchParams));
  if (!read.success)
    error(400, { message: `${read.error.issues[0]?.path.join('.')}: ${read.error.issues[0]?.message}` });
  const { service, ...kept } = read.data;
  const { db, clock } = bussola();
  const gone = await removalsDue(db, after(clock.now(), day), { accountId: Number(params.id), service, keep: kept });
  return json({
    points: gone.reduce((sum, { points }) => sum + points, 0),
    bytes: gone.reduce((sum, { bytes }) => sum + bytes, 0)
  });
};
