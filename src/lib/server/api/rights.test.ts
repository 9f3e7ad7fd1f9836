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

  it('let programs with a key change what their scopes say, and never people, or what is one person’s own', () => {
    const changing = operations.filter(({ isAct, isRaw, method }) => isAct && !isRaw && method !== 'GET');
    expect(changing.length).to.be.greaterThan(100);
    for (const { method, path, right, scope } of changing) {
      const name = `${method} ${path}`;
      const isPersonal = /^\/(people|me|calendars)\b/.test(path) && method !== 'DELETE';
      if (isPersonal || path.startsWith('/me/') || path.includes('swaps')) expect(scope, name).to.equal(null);
      else if (right === 'editor') expect(scope, name).to.equal('change');
      else if (right === 'administrator' && !path.startsWith('/people/')) expect(scope, name).to.equal('administer');
    }
    expect(
      operations.filter(({ scope }) => scope === 'administer').every(({ right }) => right === 'administrator')
    ).to.equal(true);
  });

  it('end with those of whoever made the key', async () => {
    const board = operations.find(({ method, path }) => method === 'POST' && path === '/boards')!;
    const pages = operations.find(({ method, path }) => method === 'POST' && path === '/accounts/pages')!;
    const status = async (operation: Operation, owner: Owner | null): Promise<number> => {
      const handle = () => Promise.resolve(new Response(null, { status: 204 }));
      const url = new URL(`https://bussola.example.test/api/v1${operation.path}`);
      const event = {
        request: new Request(url, { method: 'POST', headers: { authorization: 'Bearer bk-made-up' } }),
        url,
        locals: { person: null, session: null, address: '192.0.2.1' }
      } as unknown as RequestEvent;
      const server = serverFor({ kind: 'key', scopes: keyScopes }, owner);
      return (await answerApi(server, new Router([{ ...operation, body: null, handle }]), event, operation.path))
        .status;
    };
    const isIn = { disabledAt: null };
    expect(await status(board, { ...isIn, role: 'editor' })).to.equal(204);
    expect(await status(pages, { ...isIn, role: 'editor' })).to.equal(403);
    expect(await status(pages, { ...isIn, role: 'administrator' })).to.equal(204);
    expect(await status(board, { ...isIn, role: 'viewer' })).to.equal(403);
    expect(await status(board, { disabledAt: 5, role: 'administrator' })).to.equal(403);
    expect(await status(board, null)).to.equal(403);
  });
});

/** Whoever made a key. */
interface Owner {
  readonly role: Role;
  readonly disabledAt: number | null;
}

/** A server of which only the table of keys, and what is recorded, are asked for. */
function serverFor(caller: Caller, owner: Owner | null = { role: 'administrator', disabledAt: null }): Bussola {
  const key = {
    id: 3,
    name: 'a-key',
    ownerId: 7,
    createdBy: 'Kaja',
    scopes: caller.kind === 'key' ? caller.scopes : []
  };
  const isKnown = caller.kind === 'key' && caller.scopes !== null;
  return {
    db: {
      rows: (text: string) =>
        Promise.resolve(
          text.includes('from keys') && isKnown ? [key] : text.includes('from people') && owner !== null ? [owner] : []
        )
    },
    clock: { now: () => instant(1_777_881_600_000) },
    uses: { take: () => undefined },
    requestRate: new RequestRate(1e6),
    log: { error: () => undefined }
  } as unknown as Bussola;
}
