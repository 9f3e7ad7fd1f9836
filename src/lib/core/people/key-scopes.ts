import { hasRights, type Role } from './rights';

/**
 * What a key of a program may do: send metrics, lines, events and marks, read through the API, read lines; and, in the right of whoever made it, act on resources,
 * change what editors change, and administer.
 */
export const keyScopes = [
  'metrics',
  'logs',
  'events',
  'marks',
  'read',
  'read-lines',
  'act',
  'change',
  'administer'
] as const;
export type KeyScope = (typeof keyScopes)[number];

/** The scopes with which a program only sends: they are what most keys are for. */
export const sendingScopes: readonly KeyScope[] = ['metrics', 'logs', 'events', 'marks'];

/** The role in which a key of a scope is used. @example roleOfScope('change') // 'editor' */
export const roleOfScope = (scope: KeyScope | null): Role =>
  scope === 'administer' ? 'administrator' : scope === 'change' ? 'editor' : 'viewer';

/** Scopes that whoever has a role may give a key: with none may it do more than they may. @example scopesFor('editor').includes('administer') // false */
export const scopesFor = (role: Role): readonly KeyScope[] =>
  keyScopes.filter((scope) => hasRights(role, roleOfScope(scope)));

/** Whether a key does this in the right of whoever made it. @example isInRightOfMaker('read') // false */
export const isInRightOfMaker = (scope: KeyScope): boolean => scope === 'act' || roleOfScope(scope) !== 'viewer';

/** What a key of each scope may do, as people read it. */
export const scopeWords: Readonly<Record<KeyScope, string>> = {
  metrics: 'send metrics',
  logs: 'send logs',
  events: 'send events',
  marks: 'send marks',
  read: 'read through the API',
  'read-lines': 'read lines of logs',
  act: 'act on resources',
  change: 'change what editors change',
  administer: 'administer, but no people and no keys'
};
