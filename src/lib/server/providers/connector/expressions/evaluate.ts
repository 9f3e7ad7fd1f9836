import jsonata from 'jsonata';
import { LRUCache } from 'lru-cache';
import { Refusal } from '$lib/core/problem/problem';

/** What every expression of a connector may use: values and functions by their names. */
export interface Prelude {
  readonly values: Readonly<Record<string, unknown>>;
  readonly functions: Readonly<Record<string, string>>;
}

/** What else has a name in an expression, without the dollar. */
export type Bindings = Readonly<Record<string, unknown>>;

const compiled = new LRUCache<string, jsonata.Expression>({ max: 300 });

/** Functions stand before the expression that uses them: what they are is read together with it. */
const withFunctions = ({ functions }: Prelude, expression: string): [before: string, whole: string] => {
  const before = Object.entries(functions)
    .map(([name, text]) => `$${name} := ${text};\n`)
    .join('');
  return before === '' ? ['', expression] : [`(${before}`, `(${before}${expression}\n)`];
};

/** Reads an expression; what was read is remembered. @throws Refusal (invalid) with the place in it */
export function compile(prelude: Prelude, expression: string): jsonata.Expression {
  const [before, whole] = withFunctions(prelude, expression);
  const known = compiled.get(whole);
  if (known !== undefined) return known;
  try {
    const read = jsonata(whole);
    compiled.set(whole, read);
    return read;
  } catch (error) {
    throw unreadable(error, before.length, expression);
  }
}

/** What JSONata throws: no error, but what says what is wrong. */
interface Thrown {
  readonly message?: string;
  readonly position?: number;
  readonly code?: string;
}

const saysOf = (error: unknown): string =>
  String((error as Thrown | null)?.message ?? error)
    .replaceAll(/\s+/g, ' ')
    .slice(0, 300);

function unreadable(error: unknown, offset: number, expression: string): Refusal {
  const { position } = (error ?? {}) as Thrown;
  const at = position === undefined ? null : position - offset;
  const near =
    at === null || at < 0 || at > expression.length
      ? ''
      : ` It is near “${expression.slice(Math.max(0, at - 20), at)}”.`;
  return new Refusal(
    'invalid',
    `The expression cannot be read: ${saysOf(error)}.${near}`,
    'Correct it. The language is JSONata.'
  );
}

/**
 * What an expression gives for something.
 *
 * @throws Refusal (malformed) where it fails
 * @example await evaluate({ values: {}, functions: {} }, 'a + $b', { a: 1 }, { b: 2 }) // 3
 */
export async function evaluate(
  prelude: Prelude,
  expression: string,
  input: unknown,
  bindings: Bindings
): Promise<unknown> {
  const read = compile(prelude, expression);
  try {
    return (await read.evaluate(input, { ...prelude.values, ...bindings })) as unknown;
  } catch (error) {
    throw new Refusal('malformed', `An expression failed: ${saysOf(error)}.`, remedy, { cause: error });
  }
}

const remedy = 'Correct the connector, or its mapping of what the provider answers now.';

/** Results as a list: nothing is none, and what is no list is one. @example listOf(undefined) // [] */
export const listOf = (result: unknown): readonly unknown[] =>
  result === undefined || result === null ? [] : Array.isArray(result) ? (result as unknown[]) : [result];
