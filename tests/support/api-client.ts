import { expect } from 'chai';
import Ajv2020, { type AnySchema } from 'ajv/dist/2020';
import addFormats from 'ajv-formats';
import { OpenAPIClientAxios, type Document, type OpenAPIClient } from 'openapi-client-axios';

/** What a call sends besides what its description shows. */
interface Sent {
  /** Parameters of its path and its query. */
  readonly params?: Readonly<Record<string, string | number>>;
  readonly body?: unknown;
  /** Headers that say who calls; those of the client by default. */
  readonly as?: Readonly<Record<string, string>>;
  /** The code of the problem with which it is refused. */
  readonly refused?: string;
}

interface DescribedBody {
  readonly content: Readonly<Record<string, { readonly schema?: AnySchema; readonly example?: unknown }>>;
}

/** An operation, as far as this reads its description. */
interface Described {
  readonly operationId: string;
  readonly parameters: readonly { readonly name: string; readonly in: string; readonly example?: string }[];
  readonly requestBody?: DescribedBody;
  readonly responses: Readonly<Record<string, Partial<DescribedBody>>>;
}

/** A client made from the description of the API alone: it checks that each answer is as it is described, and knows what was called. */
export class DescribedClient {
  readonly #client: OpenAPIClient;
  readonly #operations = new Map<string, Described>();
  readonly #ajv: Ajv2020;
  /** Schemas that others name. */
  readonly #components: object;
  /** Operations that were called, such as `GET /boards`. */
  readonly called = new Set<string>();

  constructor(
    document: Document,
    readonly headers: Readonly<Record<string, string>>
  ) {
    this.#client = new OpenAPIClientAxios({ definition: document, quick: true }).initSync();
    this.#ajv = new Ajv2020({ strict: false, allErrors: true });
    // Made for CommonJS, whose default is what it exports.
    (addFormats as unknown as { default: (ajv: Ajv2020) => void }).default(this.#ajv);
    this.#ajv.addFormat('includes', true);
    this.#components = (document as { components: object }).components;
    for (const [path, methods] of Object.entries(document.paths ?? {}))
      for (const [method, one] of Object.entries(methods as Record<string, Described>))
        this.#operations.set(`${method.toUpperCase()} ${path}`, one);
  }

  get names(): string[] {
    return [...this.#operations.keys()];
  }

  /** @param name method and path, as described @returns the answer */
  async call<Answer = Record<string, never>>(name: string, { params, body, as, refused }: Sent = {}): Promise<Answer> {
    const operation = this.#operations.get(name);
    const method = operation && this.#client[operation.operationId];
    if (!operation || !method) throw new Error(`nothing is described as ${name}`);
    const shown = operation.parameters.flatMap(({ name: of, in: place, example }) =>
      place === 'query' && example !== undefined ? [[of, example] as const] : []
    );
    const [contentType, described] = Object.entries(operation.requestBody?.content ?? {})[0] ?? [];
    const sent = body ?? described?.example;
    const answer = await method(
      { ...Object.fromEntries(shown), ...params },
      typeof sent === 'string' ? Buffer.from(sent) : sent,
      {
        headers: { ...(as ?? this.headers), ...(contentType !== undefined && { 'content-type': contentType }) },
        validateStatus: () => true
      }
    );
    const said = `${name}: ${answer.status} ${JSON.stringify(answer.data)?.slice(0, 400)}`;
    const given = operation.responses[String(answer.status)] ?? operation.responses['default'];
    const type = String(answer.headers['content-type'] ?? '').split(';')[0] ?? '';
    const form = given?.content?.[type];
    expect(answer.status < 400, said).to.equal(refused === undefined);
    if (answer.status === 204) expect(answer.data, said).to.equal('');
    else expect(form, `${said}: ${type} is not described`).not.to.equal(undefined);
    if (form?.schema && type.endsWith('json')) {
      const isValid = this.#ajv.validate({ ...(form.schema as object), components: this.#components }, answer.data);
      expect(isValid, `${said}: ${this.#ajv.errorsText()}`).to.equal(true);
    }
    if (refused !== undefined) expect((answer.data as { code?: string }).code, said).to.equal(refused);
    this.called.add(name);
    return answer.data as Answer;
  }
}
