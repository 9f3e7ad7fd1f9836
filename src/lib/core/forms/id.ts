import { z } from 'zod';

/** The id of something stored: a whole number from 1 that the database holds. */
export const idSchema = z.int({ error: 'Give an id: a whole number.' }).min(1).max(2_147_483_647);

/** The id that a part of an address or a form holds; null when it holds none. @example idFrom('12') // 12 */
export const idFrom = (text: FormDataEntryValue | null): number | null =>
  idSchema.safeParse(typeof text === 'string' ? Number(text) : NaN).data ?? null;
