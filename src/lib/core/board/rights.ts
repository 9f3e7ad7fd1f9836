import { z } from 'zod';
import { idSchema } from '../forms/id';
import { hasRights, roles, type Role } from '../people/rights';

/** What somebody may do with a board. */
export const boardRights = ['view', 'edit'] as const;
export type BoardRight = (typeof boardRights)[number];

const right = z.enum(boardRights);

/** With whom a board is shared, besides its owner. */
export const sharingSchema = z.strictObject({
  /** `private`: those named; `workspace`: everybody here. */
  reach: z.enum(['private', 'workspace']),
  /** What people who may edit boards may do with this one when it is the workspace's. */
  everyone: right,
  named: z
    .array(
      z.union([z.strictObject({ person: idSchema, may: right }), z.strictObject({ role: z.enum(roles), may: right })])
    )
    .max(100)
});
export type Sharing = z.infer<typeof sharingSchema>;

/** A person as rights look at them. */
export interface Reader {
  readonly id: number;
  readonly role: Role;
}

/**
 * What a person may do with a board; null when they may not even see it. Its owner and administrators may edit it; of the workspace's boards everybody sees all, and
 * people who may edit boards may do what it says of everyone; who is named, or has a named role, may do what is said there. Nobody may do more with a board than their role allows elsewhere: a viewer sees what they
 * were given to edit.
 *
 * @param owner the id of the person it belongs to; null when it belongs to nobody any more
 * @example rightOn({ owner: 3, reach: 'private', everyone: 'edit', named: [] }, { id: 4, role: 'editor' }) // null
 */
export function rightOn(
  { owner, reach, everyone, named }: Sharing & { readonly owner: number | null },
  { id, role }: Reader
): BoardRight | null {
  const most: BoardRight = hasRights(role, 'editor') ? 'edit' : 'view';
  if (role === 'administrator' || (owner !== null && owner === id)) return most;
  const granted = named
    .filter((one) => ('person' in one ? one.person === id : one.role === role))
    .map(({ may }) => may);
  if (reach === 'workspace') granted.push(hasRights(role, 'editor') ? everyone : 'view');
  return granted.includes('edit') ? most : granted.length > 0 ? 'view' : null;
}

/**
 * Whether a person may remove a board, share it with others and publish it outside: its owner and administrators; a board of the workspace, whoever may edit it.
 *
 * @example governs({ owner: 3, reach: 'private', everyone: 'edit', named: [{ person: 4, may: 'edit' }] }, { id: 4, role: 'editor' }) // false
 */
export function governs(sharing: Sharing & { readonly owner: number | null }, reader: Reader): boolean {
  if (rightOn(sharing, reader) !== 'edit') return false;
  const isOwn = sharing.owner !== null && sharing.owner === reader.id;
  return isOwn || reader.role === 'administrator' || sharing.reach === 'workspace';
}
