/** What a key of a program may do: send metrics, lines and marks, read through the API, and read lines. */
export const keyScopes = ['metrics', 'logs', 'marks', 'read', 'read-lines'] as const;
export type KeyScope = (typeof keyScopes)[number];
