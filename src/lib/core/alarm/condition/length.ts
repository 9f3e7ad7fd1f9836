import { z } from 'zod';
import { day, durationFromText, minute, times } from '../../time';

const longest = times(31, day);

/** A length of time as ISO 8601, from a minute to 31 days. */
export const lengthSchema = z
  .string()
  .max(20)
  .refine(isLength, { error: 'Give an ISO 8601 duration from PT1M to P31D, such as PT30M.' });

export function isLength(text: string): boolean {
  try {
    const length = durationFromText(text);
    return length >= minute && length <= longest;
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}
