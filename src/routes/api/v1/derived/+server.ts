import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { derivedSchema } from '$lib/core/signal';
import { asked } from '$server/http/asked';
import { allDerived } from '$server/query/derived/derived';
import { makeDerived } from '$server/query/derived/make';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const newDerivedSchema = derivedSchema.extend({ backfillDays: z.int().min(0).max(400).default(0) });

export const GET: RequestHandler = async () => json({ derived: await allDerived(bussola().db) });

/** Makes a derived metric: `{ name, signal, backfillDays? }` in, the made one out. */
export const POST: RequestHandler = ({ request, locals }) =>
  asked(request, newDerivedSchema, async ({ backfillDays, ...definition }) =>
    json(await makeDerived(bussola(), definition, locals.person?.displayName ?? '', backfillDays), { status: 201 })
  );
