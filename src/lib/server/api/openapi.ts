import { z } from 'zod';
import { problemCodes } from '$lib/core/problem/problem';
import { problemSchema } from './answers';
import { examples } from './examples';
import { documentedBy, mayRepeat, timeFormats, type Operation } from './operation';

type Json = Record<string, unknown>;

/** A schema of Zod as JSON Schema, as it is sent. */
export function jsonSchema(schema: z.ZodType): Json {
  const { $schema: _, ...written } = z.toJSONSchema(schema, {
    io: 'input',
    unrepresentable: 'any',
    override: ({ zodSchema, jsonSchema: json }) => {
      const stored = documentedBy.get(zodSchema as unknown as z.ZodType);
      if (stored) Object.assign(json, jsonSchema(stored));
    }
  });
  return written;
}

/**
 * The description of the API as OpenAPI 3.1, from the same schemas that check requests and write answers.
 *
 * @example openApi(operations, 'https://bussola.example.test').openapi // '3.1.0'
 */
export function openApi(operations: readonly Operation[], origin: string): Json & { readonly openapi: string } {
  const paths: Record<string, Json> = {};
  for (const operation of operations)
    (paths[operation.path] ??= {})[operation.method.toLowerCase()] = describedOperation(operation);
  return {
    openapi: '3.1.0',
    info: {
      title: 'Bussola',
      version: '1',
      description: [
        'Times are RFC 3339; send the header "Prefer: times=epoch" for milliseconds since the epoch.',
        'Programs send a key as "Authorization: Bearer …"; what a key may do depends on its scopes.',
        'Answers have a tag (ETag); a change with If-Match is made only to what is as it was read.',
        'A POST with an Idempotency-Key can be sent again within a day: it is done once.',
        'A refused request is answered as RFC 9457 (application/problem+json) with a stable code.'
      ].join(' ')
    },
    servers: [{ url: `${origin}/api/v1` }],
    paths,
    components: {
      schemas: { Problem: jsonSchema(problemSchema) },
      securitySchemes: {
        key: { type: 'http', scheme: 'bearer' },
        session: { type: 'apiKey', in: 'cookie', name: 'session' }
      }
    }
  };
}

/** The name by which programs know an operation. @example operationName({ method: 'PUT', path: '/boards/{id}' }) // 'putBoardsId' */
export const operationName = ({ method, path }: Pick<Operation, 'method' | 'path'>): string =>
  method.toLowerCase() + path.replace(/[{}]/g, '').replace(/[/-](\w)/g, (_, letter: string) => letter.toUpperCase());

function describedOperation(operation: Operation): Json {
  const { tag, summary, right, scope, params, query, body, answer, status, path, method, takesFile, types } = operation;
  const example = examples[`${method} ${path}`];
  const parameters = [
    ...parametersOf(params, 'path'),
    ...parametersOf(query, 'query').map((one) => {
      const shown = example?.query?.[one.name];
      return shown === undefined ? one : { ...one, example: shown };
    }),
    {
      name: 'Prefer',
      in: 'header',
      description: 'How instants are written in the answer.',
      schema: { type: 'string', enum: timeFormats.map((one) => `times=${one}`) }
    },
    ...conditionsOf(operation)
  ];
  const security = [...(scope === null ? [] : [{ key: [scope] }]), ...(right === 'anybody' ? [] : [{ session: [] }])];
  return {
    operationId: operationName(operation),
    tags: [tag],
    summary,
    description: right === 'anybody' ? 'Needs no sign-in.' : `Needs the role ${right}.`,
    security: right === 'anybody' && scope === null ? [] : security,
    parameters,
    ...(example?.texts && {
      requestBody: {
        required: true,
        content: Object.fromEntries(
          Object.entries(example.texts).map(([type, text]) => [
            type,
            { schema: takesFile ? { type: 'string', format: 'binary' } : { type: 'string' }, example: text }
          ])
        )
      }
    }),
    ...(body && {
      requestBody: {
        required: true,
        content: { 'application/json': { schema: jsonSchema(body), ...(example && { example: example.body }) } }
      }
    }),
    responses: {
      [status]: {
        description: answer === null ? 'Done.' : 'The answer.',
        headers: headersOf(operation),
        ...((answer !== null || types.length > 0) && {
          content: {
            ...(answer !== null && { [answerType(operation)]: { schema: jsonSchema(answer) } }),
            ...Object.fromEntries(types.map((type) => [type, { schema: { type: 'string' } }]))
          }
        })
      },
      ...(isTagged(operation) && { 304: { description: 'It is as it was: the tag of If-None-Match is its own.' } }),
      default: {
        description: 'Why it was refused.',
        content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } }
      }
    }
  };
}

/** The media type of an answer that is JSON. */
const answerType = ({ path }: Operation): string =>
  path.startsWith('/schemas/') ? 'application/schema+json' : 'application/json';

/** Whether an answer has a tag. */
const isTagged = ({ method, answer }: Operation): boolean => method === 'GET' && answer !== null;

/** Headers with which a request says under which conditions it is done. */
function conditionsOf(operation: Operation): Json[] {
  const { method, isRaw } = operation;
  const header = (name: string, description: string): Json => ({
    ...{ name, in: 'header', description },
    schema: { type: 'string' }
  });
  if (isTagged(operation)) return [header('If-None-Match', 'Tags (ETag) of answers that are known already.')];
  if (method === 'GET' || isRaw) return [];
  return [
    header('If-Match', 'The tag (ETag) with which it was read: nothing is changed that is another one by now.'),
    ...(mayRepeat(operation) || operation.ownsKey
      ? [
          header(
            'Idempotency-Key',
            'A UUID. Sent again with the same key within a day, it is done once and answered the same.'
          )
        ]
      : [])
  ];
}

/** Headers of an answer. */
function headersOf(operation: Operation): Json {
  const text = (description: string): Json => ({ description, schema: { type: 'string' } });
  return {
    ...(operation.list !== null && { Link: text('The next page (RFC 8288), where there is one.') }),
    ...(isTagged(operation) && { ETag: text('Its tag: another one once it says something else.') }),
    ...(operation.scope !== null &&
      !operation.isRaw && {
        RateLimit: text('Requests that the key has left, and seconds until it has all again.'),
        'RateLimit-Policy': text('Requests that a key may make, and in how many seconds.')
      })
  };
}

function parametersOf(schema: z.ZodObject, place: 'path' | 'query'): (Json & { readonly name: string })[] {
  const { properties = {}, required = [] } = jsonSchema(schema) as {
    properties?: Record<string, Json>;
    required?: string[];
  };
  return Object.entries(properties).map(([name, described]) => ({
    name,
    in: place,
    required: place === 'path' || required.includes(name),
    schema: described
  }));
}

/** Every code of a problem with its status and what it means. */
export const listedProblems = (): { code: string; status: number; title: string }[] =>
  Object.entries(problemCodes).map(([code, { status, title }]) => ({ code, status, title }));
