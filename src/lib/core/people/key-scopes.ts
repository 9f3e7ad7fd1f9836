/** What a key of a program may do: send metrics, send marks, read through the API. */
export const keyScopes = ['metrics', 'marks', 'read'] as const;
export type KeyScope = (typeof keyScopes)[number];
