import { json } from '@sveltejs/kit';
import { asked } from '$server/http/asked';
import { bussola } from '$server/process/running';
import { keepSignal, namedSignalSchema } from '$server/query/signals/keep';
import { removeSignal, signalById } from '$server/query/signals/signals';
import type { RequestHandler } from './$types';

const gone = () =>
  json(
    { message: 'There is no such signal.', remedy: 'It may have been removed. See the list of signals.' },
    { status: 404 }
  );

export const GET: RequestHandler = async ({ params }) => {
  const signal = await signalById(bussola().db, Number(params.id));
  return signal === null ? gone() : json(signal);
};

export const PUT: RequestHandler = ({ request, params, locals }) =>
  asked(request, namedSignalSchema, async (named) => {
    const kept = await keepSignal(bussola(), Number(params.id), named, locals.person?.displayName ?? '');
    return kept === null ? gone() : json(kept);
  });

export const DELETE: RequestHandler = async ({ params }) => {
  await removeSignal(bussola().db, Number(params.id));
  return new Response(null, { status: 204 });
};
