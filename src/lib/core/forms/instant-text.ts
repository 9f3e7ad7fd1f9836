import { z } from 'zod';
import { instantFromText } from '../time';

const format = 'Give a date and time with a zone, such as 2026-05-04T08:00:00Z.';

/** An RFC 3339 instant from outside: from 1970 to the end of 9998, so that whatever is computed from it has four-digit years, too. */
export const instantTextSchema = z
  .string()
  .max(40)
  .superRefine((text, context) => {
    const problem = problemOf(text);
    if (problem !== null) context.addIssue({ code: 'custom', message: problem });
  });

function problemOf(text: string): string | null {
  const written = /^\d{4}-\d\d-\d\dT/i.test(text);
  try {
    return instantFromText(text) < end ? null : outside(text);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    return written && /must|whole milliseconds/.test(error.message) ? outside(text) : format;
  }
}

const end = Date.UTC(9999, 0, 1);
const outside = (text: string): string => `${text} is out of reach: give a time from 1970-01-01 to 9998-12-31.`;
