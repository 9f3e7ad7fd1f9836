import { error, fail, type ActionFailure } from '@sveltejs/kit';
import { Refusal, type ProblemCode } from '$lib/core/problem/problem';

/** Shows the page of an error in the place of a page that is refused. */
export function refusePage({ status, message, remedy }: Refusal): never {
  error(status, { message, remedy });
}

/** Shows the page of an error for a refusal, from a promise that fails. @example await countUse(link.id).catch(asErrorPage) */
export function asErrorPage(problem: unknown): never {
  if (!(problem instanceof Refusal)) throw problem;
  refusePage(problem);
}

/** What a form shows that was refused. */
export interface FormProblem {
  readonly code: ProblemCode;
  /** What happened and what to do, in one text. */
  readonly problem: string;
}

/**
 * Does the work of a form; what is refused is shown beside it.
 *
 * @example return orProblem(async () => { await removeChannel(server, id); return { done: 'Removed.' }; })
 */
export async function orProblem<Result>(work: () => Promise<Result>): Promise<Result | ActionFailure<FormProblem>> {
  try {
    return await work();
  } catch (problem) {
    if (!(problem instanceof Refusal)) throw problem;
    return fail(problem.status, { code: problem.code, problem: inOneText(problem) });
  }
}

/** The refusal that a promise failed with, as its result; other failures go on. @example const saved = await saveAlarm(…).catch(asRefusal) */
export function asRefusal(problem: unknown): Refusal {
  if (!(problem instanceof Refusal)) throw problem;
  return problem;
}

/** The status of a refusal as forms take it. */
export const statusOf = ({ status }: Refusal): 400 | 404 | 409 | 422 | 429 => status as 422;

/** @example inOneText(refusal) // 'There is no such channel. It may have been removed.' */
export const inOneText = ({ message, remedy }: Pick<Refusal, 'message' | 'remedy'>): string =>
  `${message} ${remedy}`.trim();
