import type { z } from 'zod';

/** What is wrong with a value from outside: where, and what. */
export interface Problem {
  /** Keys and places in lists from the outside in, joined by dots. */
  readonly path: string;
  readonly message: string;
}

/**
 * What is wrong with a value, as deep as it can be said: of several forms it could have had, the one whose keys it has.
 *
 * @example problemsOf(signalSchema.safeParse(signal).error) // [{ path: 'rows.0.statistic', message: 'Invalid option: …' }]
 */
export const problemsOf = (error: z.ZodError): Problem[] => error.issues.flatMap((issue) => spelled(issue, []));

function spelled(issue: z.core.$ZodIssue, before: readonly PropertyKey[]): Problem[] {
  const path = [...before, ...issue.path];
  if (issue.code === 'invalid_union') {
    const [meant] = issue.errors
      .filter((form) => !form.some((one) => one.code === 'unrecognized_keys'))
      .toSorted((one, other) => one.length - other.length);
    if (meant && meant.every((one) => one.path.length > 0)) return meant.flatMap((one) => spelled(one, path));
  }
  return [{ path: path.map(String).join('.'), message: issue.message }];
}
