/** The provider of the account that holds what Bussola computes itself. */
export const derivedProvider = 'derived';

/** The resource that a derived metric belongs to. @example derivedResource(3) // 'derived/3' */
export const derivedResource = (id: number): string => `derived/${id}`;
