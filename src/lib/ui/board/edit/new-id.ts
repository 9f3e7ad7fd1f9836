/** An id that no part of any board has had: two who edit at once never give the same one. */
export const newId = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(6)), (byte) => byte.toString(36).padStart(2, '0')).join('');
