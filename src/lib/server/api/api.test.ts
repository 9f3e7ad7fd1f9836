import { Validator } from '@seriousme/openapi-schema-validator';
import { expect } from 'chai';
import { z } from 'zod';
import { problemCodes, Refusal } from '$lib/core/problem/problem';
import { roles } from '$lib/core/people/rights';
import type { RequestEvent } from '@sveltejs/kit';
import type { Bussola } from '../process/start';
import { answerApi } from './dispatch';
import { Router } from './router';
import { instant, operationsOf } from './operation';
import { examples } from './examples';
import { openApi } from './openapi';
import { operations } from './operations';

describe('the table of operations', () => {
  const router = new Router(operations);
  const refusalOf = (work: () => unknown): Refusal => {
    try {
      work();
    } catch (error) {
      if (error instanceof Refusal) return error;
      throw error;
    }
    throw new Error('nothing was refused');
  };

  it('finds every operation by an address of its kind, and reads its parameters', () => {
    for (const operation of operations) {
      const { params, operation: found } = router.find(operation.method, operation.path.replaceAll(/\{\w+\}/g, '7'));
      expect(found).to.equal(operation);
      expect(Object.keys(params)).to.deep.equal(Object.keys(operation.params.shape));
    }
  });

  it('takes what is written out for itself, decodes parameters, and answers HEAD as GET', () => {
    expect(router.find('POST', '/boards/plan').operation.path).to.equal('/boards/plan');
    expect(router.find('GET', '/metrics/a%2Fb%20c').params).to.deep.equal({ name: 'a/b c' });
    expect(router.find('HEAD', '/signals').operation.method).to.equal('GET');
  });

  it('says what is not there, and which methods are', () => {
    expect(refusalOf(() => router.find('GET', '/nothing/here'))).to.include({ code: 'not-found' });
    expect(refusalOf(() => router.find('PATCH', '/boards/3'))).to.deep.include({
      code: 'method-not-allowed',
      remedy: 'Use GET or PUT or DELETE.'
    });
  });

  it('has an example of what each operation sends, and none of what none sends', () => {
    const names = new Set<string>();
    const wrong: string[] = [];
    for (const { method, path, body, query, isRaw, takesFile } of operations) {
      const name = `${method} ${path}`;
      names.add(name);
      const example = examples[name];
      if (example === undefined) {
        if (body !== null || isRaw || takesFile || !query.safeParse({}).success) wrong.push(`${name}: none`);
        continue;
      }
      for (const [what, schema, sent] of [
        ['query', query, example.query ?? {}],
        ['body', body ?? z.undefined(), example.body]
      ] as const) {
        const read = schema.safeParse(sent);
        if (!read.success) wrong.push(`${name}, ${what}: ${z.prettifyError(read.error)}`);
      }
    }
    expect(wrong).to.deep.equal([]);
    expect(Object.keys(examples).filter((name) => !names.has(name))).to.deep.equal([]);
  });

  it('answers what can be written in either form of times: nothing in it turns one way only', () => {
    /** Every schema within one. */
    const within = (one: unknown, seen: Set<unknown>): z.core.$ZodTypes[] => {
      if (one === null || typeof one !== 'object' || seen.has(one)) return [];
      seen.add(one);
      if (one instanceof z.core.$ZodType) {
        const { def } = one._zod as z.core.$ZodTypes['_zod'];
        const inner = def.type === 'lazy' ? [def.getter()] : Object.values(def);
        return [one as z.core.$ZodTypes, ...inner.flatMap((part) => within(part, seen))];
      }
      const isPlain = Array.isArray(one) || Object.getPrototypeOf(one) === Object.prototype;
      return isPlain ? Object.values(one).flatMap((part) => within(part, seen)) : [];
    };
    const turning = (schema: z.ZodType) =>
      within(schema, new Set()).filter(({ _zod }) => _zod.def.type === 'transform');
    expect(turning(z.object({ at: z.string().transform(Number).nullable() }))).to.have.length(1);
    expect(
      operations.flatMap(({ method, path, answer }) =>
        answer !== null && turning(answer).length > 0 ? [`${method} ${path}`] : []
      )
    ).to.deep.equal([]);
  });

  it('lets keys that read change nothing', () => {
    const known = new Set<string>(operations.map(({ method, path }) => `${method} ${path}`));
    expect(known.size).to.equal(operations.length);
    for (const { method, path, scope, right } of operations) {
      expect(['anybody', ...roles], path).to.include(right);
      if (scope?.startsWith('read') === true && method !== 'GET')
        expect(
          [
            '/growth',
            '/query',
            '/queries',
            '/picks',
            '/groups/match',
            '/accounts/{id}/estimate',
            '/rehearse',
            '/preflight',
            '/routes/try',
            '/message-templates/preview',
            '/bands',
            '/lines/pattern',
            '/line-rules/try',
            '/event-rules/try',
            '/costs/query',
            '/budgets/try',
            '/objectives/try'
          ],
          path
        ).to.include(path);
    }
  });
});

describe('calls of operations', () => {
  const operation = operationsOf('Tests');
  const reader = z.object({ name: z.string(), isAnonymous: z.boolean() });
  const asked = [
    operation('GET', '/mine', {
      right: 'viewer',
      summary: 'Whose turn it is.',
      answer: reader,
      handle: ({ inTurn }) => inTurn(({ name, isAnonymous = false }) => Promise.resolve({ name, isAnonymous }))
    }),
    operation('GET', '/linked', {
      right: 'anybody',
      summary: 'Whose turn it is by a link.',
      answer: reader,
      handle: ({ inTurn }) =>
        inTurn(({ name, isAnonymous = false }) => Promise.resolve({ name, isAnonymous }), 'link 3')
    }),
    operation('GET', '/broken', {
      right: 'anybody',
      summary: 'Answers what its schema does not allow.',
      answer: reader,
      handle: () => Promise.resolve({ name: 3 } as never)
    })
  ];
  const logged: unknown[] = [];
  const server = { log: { error: (what: unknown) => logged.push(what) } } as unknown as Bussola;
  const call = async (path: string, person: object | null) => {
    const url = new URL(`https://bussola.example.test/api/v1${path}`);
    const event = {
      request: new Request(url),
      url,
      locals: { person, address: '192.0.2.1' }
    } as unknown as RequestEvent;
    const response = await answerApi(server, new Router(asked), event, path);
    return [response.status, (await response.json()) as object] as const;
  };

  it('take turns by person, and anonymously by link only', async () => {
    const nerea = { id: 7, role: 'editor', displayName: 'Nerea' };
    expect(await call('/mine', nerea)).to.deep.equal([200, { name: 'person 7', isAnonymous: false }]);
    expect(await call('/linked', nerea)).to.deep.equal([200, { name: 'link 3', isAnonymous: true }]);
    expect((await call('/mine', null))[0]).to.equal(401);
  });

  it('fail, and are logged, when their answer is not what is described', async () => {
    const [status, problem] = await call('/broken', null);
    expect([status, (problem as { code: string }).code, logged.length]).to.deep.equal([500, 'internal', 1]);
  });
});

describe('the description of the API', () => {
  const document = JSON.parse(JSON.stringify(openApi(operations, 'https://bussola.example.test'))) as {
    openapi: string;
    paths: Record<string, Record<string, { operationId: string; parameters: { name: string }[]; responses: object }>>;
  };

  it('is OpenAPI 3.1, as a validator that others use reads it', async () => {
    const { valid, errors } = await new Validator().validate(structuredClone(document));
    expect(valid, JSON.stringify(errors)?.slice(0, 2000)).to.equal(true);
  });

  it('has every operation once, with the parameters of its path', () => {
    const described = Object.entries(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).map(([method, one]) => ({ name: `${method.toUpperCase()} ${path}`, path, ...one }))
    );
    expect(described.map(({ name }) => name).sort()).to.deep.equal(
      operations.map(({ method, path }) => `${method} ${path}`).sort()
    );
    expect(new Set(described.map(({ operationId }) => operationId)).size).to.equal(described.length);
    for (const { path, parameters } of described)
      for (const [, name] of path.matchAll(/\{(\w+)\}/g)) expect(parameters.map((one) => one.name)).to.include(name);
  });

  it('leads nowhere that is not in it', () => {
    const text = JSON.stringify(document);
    const defined = new Set([...text.matchAll(/"(?:schemas|\$defs)":\{"([^"]+)"/g)].map(([, name]) => name));
    for (const [, name] of text.matchAll(/"\$ref":"#\/components\/schemas\/([^"]+)"/g))
      expect(defined).to.include(name);
  });

  it('writes instants as RFC 3339, and reads them back', () => {
    const schema = z.object({ at: instant, other: z.array(z.looseObject({ from: instant.nullable() })) });
    const sent = z.encode(schema, { at: 1_778_000_000_000, other: [{ from: null, kept: 3 }] } as never);
    expect(sent).to.deep.equal({ at: '2026-05-05T16:53:20.000Z', other: [{ from: null, kept: 3 }] });
    expect(z.decode(schema, sent).at).to.equal(1_778_000_000_000);
  });
});

describe('codes of problems', () => {
  it('are each a word of small letters with a status and a meaning', () => {
    for (const [code, { status, title }] of Object.entries(problemCodes)) {
      expect(code).to.match(/^[a-z]+(-[a-z]+)*$/);
      expect(status).to.be.within(400, 599);
      expect(title).to.match(/^[A-Z].*\.$/);
    }
  });
});
