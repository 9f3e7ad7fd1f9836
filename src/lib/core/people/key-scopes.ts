/** What a key of a program may do: send metrics, lines, events and marks, read through the API, and read lines. */
export const keyScopes = ['metrics', 'logs', 'events', 'marks', 'read', 'read-lines'] as const;
export type KeyScope = (typeof keyScopes)[number];
