import { expect } from 'chai';
import type { RequestEvent } from '@sveltejs/kit';
import { keyScopes, type KeyScope } from '$lib/core/people/key-scopes';
import { hasRights, roles, type Role } from '$lib/core/people/rights';
import { instant } from '../../core/time';
import type { Bussola } from '../process/start';
import { answerApi } from './dispatch';
import { Router } from './router';
import { RequestRate } from '../people/request-rate';
import type { Operation } from './operation';
import { operations } from './operations';

/** Who calls: nobody, a person of a role, or a program with a key of one scope, of all, or with one that is unknown. */
type Caller = { kind: 'nobody' } | { kind: 'person'; role: Role } | { kind: 'key'; scopes: readonly KeyScope[] | null };

const callers: readonly Caller[] = [
  { kind: 'nobody' },
  ...roles.map((role) => ({ kind: 'person' as const, role })),
  ...keyScopes.map((scope) => ({ kind: 'key' as const, scopes: [scope] })),
  { kind: 'key', scopes: keyScopes },
  { kind: 'key', scopes: null }
];
const nameOf = (caller: Caller): string =>
  caller.kind === 'person'
    ? caller.role
    : caller.kind === 'key'
      ? `key ${caller.scopes?.join('+') ?? 'unknown'}`
      : 'nobody';

/** What the table of operations says; those that read the key themselves are tested with what they receive. */
function isLetIn({ right, scope }: Operation, caller: Caller): boolean {
  switch (caller.kind) {
    case 'nobody':
      return right === 'anybody';
    case 'person':
      return right === 'anybody' || hasRights(caller.role, right);
    case 'key':
      return caller.scopes !== null && (right === 'anybody' || (scope !== null && caller.scopes.includes(scope)));
  }
}

describe('rights of the API, by calls', () => {
  it('let every caller do what the table says, and nothing else', async () => {
    const wrong: string[] = [];
    let calls = 0;
    for (const operation of operations.filter(({ isRaw }) => !isRaw))
      for (const caller of callers) {
        let isHandled = false;
        const handle = () => {
          isHandled = true;
          return Promise.resolve(new Response(null, { status: 204 }));
        };
        // The way of the operation without its work: its own checks come after these.
        const asked: Operation = { ...operation, body: null, handle };
        const path = operation.path.replaceAll(/\{\w+\}/g, '7');
        const url = new URL(`https://bussola.example.test/api/v1${path}`);
        const headers: Record<string, string> = caller.kind === 'key' ? { authorization: 'Bearer bk-made-up' } : {};
        const person = caller.kind === 'person' ? { id: 7, role: caller.role, displayName: 'Somebody' } : null;
        const event = {
          request: new Request(url, { method: operation.method, headers }),
          url,
          locals: { person, session: null, address: '192.0.2.1' }
        } as unknown as RequestEvent;
        const response = await answerApi(serverFor(caller), new Router([asked]), event, path);
        calls++;
        // What comes after the rights may be wrong in this request, such as a parameter; a refusal for rights is none of it.
        const isRefused = response.status === 401 || response.status === 403;
        if (isRefused === isLetIn(operation, caller) || (isHandled && isRefused))
          wrong.push(`${operation.method} ${operation.path} as ${nameOf(caller)}: ${response.status}`);
      }
    expect(wrong).to.deep.equal([]);
    expect(calls).to.equal(operations.filter(({ isRaw }) => !isRaw).length * callers.length);
  });

  it('let programs with a key change nothing, but act in the right of whoever made the key', () => {
    const changing = operations.filter(({ isAct, method }) => isAct && method !== 'GET');
    expect(changing.length).to.be.greaterThan(40);
    for (const operation of changing)
      for (const scope of keyScopes)
        expect(
          isLetIn(operation, { kind: 'key', scopes: [scope] }),
          `${operation.method} ${operation.path} with ${scope}`
        ).to.equal(operation.right === 'anybody' || (operation.scope === 'act' && scope === 'act'));
  });
});

/** A server of which only the table of keys, and what is recorded, are asked for. */
function serverFor(caller: Caller): Bussola {
  const key = { id: 3, name: 'a-key', scopes: caller.kind === 'key' ? caller.scopes : [] };
  const isKnown = caller.kind === 'key' && caller.scopes !== null;
  return {
    db: { rows: (text: string) => Promise.resolve(text.includes('from keys') && isKnown ? [key] : []) },
    clock: { now: () => instant(1_777_881_600_000) },
    uses: { take: () => undefined },
    requestRate: new RequestRate(1e6),
    log: { error: () => undefined }
  } as unknown as Bussola;
}
