import { outlineOf, type ListedOperation, type ShownOperation } from '$lib/core/operations';
import { examples } from './examples';
import { jsonSchema, operationName } from './openapi';
import { mayRepeat, type Operation } from './operation';
import { operations } from './operations';

/** An argument as shells take it. @example quoted('a={"b":1}') // `'a={"b":1}'` */
const quoted = (text: string): string => (/^[\w=….:/-]+$/.test(text) ? text : `'${text.replaceAll("'", `'\\''`)}'`);

const listed = (operation: Operation): ListedOperation => {
  const { method, path, tag, summary, right, scope } = operation;
  return { name: operationName(operation), method, path, tag, summary, right, scope };
};

/** Every operation, in the order of the description. */
export const listedOperations = (): ListedOperation[] => operations.map(listed);

/** An operation by its name; null where there is none. @example shownOperation('postSignals')?.path // '/signals' */
export function shownOperation(name: string): ShownOperation | null {
  const operation = operations.find((one) => operationName(one) === name);
  if (operation === undefined) return null;
  const { method, path, params, query, body, answer, types, status } = operation;
  const example = examples[`${method} ${path}`];
  const parameters = (['path', 'query'] as const).flatMap((place) =>
    outlineOf(jsonSchema(place === 'path' ? params : query)).map((row) => ({ ...row, place }))
  );
  const texts = Object.entries(example?.texts ?? {}).map(([type, text]) => ({ type, text }));
  const isJson = example?.body !== undefined;
  const needed = parameters.flatMap(({ depth, isNeeded, name: of, place }) =>
    depth === 0 && (isNeeded || place === 'path') ? [` ${quoted(`${of}=${example?.query?.[of] ?? '…'}`)}`] : []
  );
  return {
    ...listed(operation),
    ...{ parameters, types, status },
    body: body === null ? [] : outlineOf(jsonSchema(body)),
    examples: isJson ? [{ type: 'application/json', text: JSON.stringify(example.body, null, 2) }] : texts,
    answer: answer === null ? [] : outlineOf(jsonSchema(answer)),
    mayRepeat: mayRepeat(operation) || operation.ownsKey,
    shell: `npm run bussola -- call ${name}${needed.join('')}${isJson || texts.length > 0 ? ' --body FILE' : ''}`
  };
}
