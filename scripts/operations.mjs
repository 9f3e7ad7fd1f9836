// Operations of the API from a shell: which there are, what one takes, and a call of it. All of it is read from the description of the Bussola that is asked.

/** @typedef {{ name: string, method: string, path: string, summary: string, parameters: object[], body: object | null, security: object[] }} Operation */

/** Operations of a description (OpenAPI), by the names that it gives them. @param {object} document @returns {Operation[]} */
export const operationsOf = (document) =>
  Object.entries(document.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, { operationId, summary, parameters, requestBody, security }]) => ({
      ...{ name: operationId, method: method.toUpperCase(), path, summary, security },
      parameters: parameters.filter((one) => one.in !== 'header'),
      body: requestBody === undefined ? null : firstBody(requestBody.content)
    }))
  );

const firstBody = (content) => {
  const [type, { example }] = Object.entries(content)[0];
  return { type, example };
};

/** Those whose name, path or summary has a word; all without one. @param {Operation[]} operations @param {string} [word] */
export const withWord = (operations, word = '') =>
  operations.filter(({ name, method, path, summary }) =>
    `${name} ${method} ${path} ${summary}`.toLowerCase().includes(word.toLowerCase())
  );

/** One operation by its name, or by its method and path. @throws Error naming those that are alike */
export function operationNamed(operations, wanted) {
  const found = operations.find(({ name, method, path }) => name === wanted || `${method} ${path}` === wanted);
  if (found) return found;
  const alike = withWord(operations, wanted.replace(/^(get|post|put|delete)/i, ''))
    .slice(0, 8)
    .map(({ name }) => name);
  const hint = alike.length > 0 ? `Alike are ${alike.join(', ')}.` : 'See: npm run bussola -- operations';
  throw new Error(`There is no operation ${wanted}. ${hint}`);
}

/** What an operation is and takes, in lines. @param {Operation} operation */
export function descriptionOf({ name, method, path, summary, parameters, body }) {
  const lines = [`${name}: ${method} ${path}`, `  ${summary}`];
  for (const { name: of, in: place, required, schema } of parameters) {
    const choices = schema.enum === undefined ? '' : `: ${schema.enum.join(', ')}`;
    lines.push(`  ${of}=…  in the ${place}${required ? '' : ', need not be given'}${choices}`);
  }
  if (body !== null) {
    const text = typeof body.example === 'string' ? body.example : JSON.stringify(body.example, null, 2);
    lines.push(`  --body, ${body.type}, such as:`, ...(text ?? '').split('\n').map((line) => `    ${line}`));
  }
  return lines;
}

/**
 * The request of an operation.
 *
 * @param {Operation} operation
 * @param {readonly string[]} given parameters, each NAME=VALUE
 * @param {Buffer | undefined} body
 * @returns {{ method: string, address: string, type: string | null, body: Buffer | undefined }} address below /api/v1
 * @throws Error naming what is missing, or is none of its parameters
 */
export function requestOf({ name, method, path, parameters, body: described }, given, body) {
  const values = new Map();
  for (const one of given) {
    const [, of, value] = /^([^=]+)=(.*)$/s.exec(one) ?? [];
    if (!parameters.some((parameter) => parameter.name === of))
      throw new Error(
        `${name} has no parameter ${of ?? one}. It has ${parameters.map((one) => one.name).join(', ') || 'none'}.`
      );
    values.set(of, value);
  }
  const missing = parameters.filter((one) => one.required && !values.has(one.name)).map((one) => `${one.name}=…`);
  if (missing.length > 0) throw new Error(`${name} needs ${missing.join(' ')}.`);
  if (described !== null && body === undefined)
    throw new Error(`${name} needs --body FILE, or --body - to read it here.`);
  if (described === null && body !== undefined) throw new Error(`${name} takes no body.`);
  const query = new URLSearchParams(
    parameters
      .filter((one) => one.in === 'query' && values.has(one.name))
      .map((one) => [one.name, values.get(one.name)])
  ).toString();
  const at = path.replace(/\{(\w+)\}/g, (_, part) => encodeURIComponent(values.get(part)));
  return { method, address: query === '' ? at : `${at}?${query}`, type: described?.type ?? null, body };
}
