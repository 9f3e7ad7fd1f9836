/** Roles, each with the rights of those before it. */
export const roles = ['viewer', 'editor', 'administrator'] as const;
export type Role = (typeof roles)[number];

/** Whether a role has the rights of another. @example hasRights('editor', 'viewer') // true */
export const hasRights = (role: Role, needed: Role): boolean => roles.indexOf(role) >= roles.indexOf(needed);
