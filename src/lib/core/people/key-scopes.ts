/** What a key of a program may do: send metrics, lines, events and marks, read through the API, read lines, and act on resources in the right of whoever made it. */
export const keyScopes = ['metrics', 'logs', 'events', 'marks', 'read', 'read-lines', 'act'] as const;
export type KeyScope = (typeof keyScopes)[number];
