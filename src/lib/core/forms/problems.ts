import type { z } from 'zod';

/** What is wrong with a value from outside: where, and what. */
export interface Problem {
  /** Keys and places in lists from the outside in, joined by dots. */
  readonly path: string;
  readonly message: string;
}

/** One thing that is wrong, with its path from the outside in. */
export interface Issue {
  readonly path: readonly PropertyKey[];
  readonly issue: z.core.$ZodIssue;
}

/** What is wrong with a value, as deep as it can be said: of several forms it could have had, the one whose keys it has. */
export const issuesOf = (error: z.ZodError): Issue[] => error.issues.flatMap((issue) => deepest(issue, []));

/** {@link issuesOf} in words. @example problemsOf(signalSchema.safeParse(signal).error) // [{ path: 'rows.0.statistic', message: 'Invalid option: …' }] */
export const problemsOf = (error: z.ZodError): Problem[] =>
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
