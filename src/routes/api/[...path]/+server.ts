import { Refusal } from '$lib/core/problem/problem';
import { answerApi } from '$server/api/dispatch';
import { Router } from '$server/api/router';
import { operations } from '$server/api/operations';
import { problemResponse } from '$server/http/problem';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const router = new Router(operations);
const version = '/api/v1';

/** Every address below /api: the operations of the API, and a problem for everything else. */
const answer: RequestHandler = (event) => {
  const { pathname } = event.url;
  if (pathname !== version && !pathname.startsWith(`${version}/`))
    return problemResponse(
      new Refusal('not-found', `There is nothing at ${pathname.slice(0, 200)}.`, `The API starts at ${version}.`)
    );
  return answerApi(bussola(), router, event, pathname.slice(version.length));
};

export const GET = answer;
export const POST = answer;
export const PUT = answer;
export const DELETE = answer;
export const PATCH = answer;
export const HEAD = answer;
