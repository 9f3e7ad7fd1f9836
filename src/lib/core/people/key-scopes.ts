/** What a key of a program may do: send metrics, lines and marks, read through the API. */
export const keyScopes = ['metrics', 'logs', 'marks', 'read'] as const;
export type KeyScope = (typeof keyScopes)[number];
