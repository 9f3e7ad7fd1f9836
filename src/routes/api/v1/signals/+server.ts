import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { bussola } from '$server/process/running';
import { keepSignal, namedSignalSchema } from '$server/query/signals/keep';
import { allSignals } from '$server/query/signals/signals';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () => json({ signals: await allSignals(bussola().db) });

/** Keeps a signal under a name: `{ name, signal }` in, the kept one out. */
export const POST: RequestHandler = ({ request, locals }) =>
  asked(request, namedSignalSchema, async (named) =>
    json(await keepSignal(bussola(), null, named, locals.person?.displayName ?? ''), { status: 201 })
  );
