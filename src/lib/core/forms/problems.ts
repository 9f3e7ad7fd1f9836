import type { z } from 'zod';
import { Refusal, type FieldProblem } from '../problem/problem';

/** One thing that is wrong, with its path from the outside in. */
export interface Issue {
  readonly path: readonly PropertyKey[];
  readonly issue: z.core.$ZodIssue;
}

/** What is wrong with a value, as deep as it can be said: of several forms it could have had, the one whose keys it has. */
export const issuesOf = (error: z.ZodError): Issue[] => error.issues.flatMap((issue) => deepest(issue, []));

/** {@link issuesOf} in words. @example problemsOf(signalSchema.safeParse(signal).error) // [{ path: 'rows.0.statistic', message: 'Invalid option: …' }] */
export const problemsOf = (error: z.ZodError): FieldProblem[] =>
  issuesOf(error).map(({ path, issue }) => ({ path: path.map(String).join('.'), message: issue.message }));

function deepest(issue: z.core.$ZodIssue, before: readonly PropertyKey[]): Issue[] {
  const path = [...before, ...issue.path];
  if (issue.code === 'invalid_union') {
    const [meant] = issue.errors
      .filter((form) => !form.some((one) => one.code === 'unrecognized_keys'))
      .toSorted((one, other) => one.length - other.length);
    if (meant && meant.every((one) => one.path.length > 0)) return meant.flatMap((one) => deepest(one, path));
  }
  return [{ path, issue }];
}

/**
 * The refusal of what does not fit a schema.
 *
 * @param what was sent, in words
 * @example throw refusalOfSchema(read.error, 'The range')
 */
export function refusalOfSchema(error: z.ZodError, what = 'The request'): Refusal {
  const problems = problemsOf(error);
  const named = problems.map(({ path, message }) => (path === '' ? message : `${path}: ${message}`)).slice(0, 5);
  return new Refusal('invalid', `${what} cannot be read. ${named.join(' ')}`.trim(), 'Correct it and send it again.', {
    problems
  });
}

/** The refusal of a form that people see: what is wrong first, in words alone. @example throw refusalOfForm(read.error) */
export function refusalOfForm(error: z.ZodError): Refusal {
  const [first] = problemsOf(error);
  return new Refusal('invalid', first?.message ?? 'The form cannot be read.', '', {
    ...(first && { path: first.path.split('.') })
  });
}
