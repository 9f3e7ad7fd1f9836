import { z } from 'zod';
import { instantFromText, type Instant } from '../time';

const instantText = z
  .string()
  .max(40)
  .refine((text) => isInstant(text), { error: 'Give a date and time with a zone, such as 2026-05-04T08:00:00Z.' });

/**
 * A mark as it is put: of an instant, or of a span when it has an end; on one board, on all of a service, or everywhere.
 *
 * @example markSchema.parse({ text: 'fares 4.18 deployed', from: '2026-05-04T11:20:00Z', service: 'databases' })
 */
export const markSchema = z
  .strictObject({
    text: z.string().trim().min(1, { error: 'Say what happened.' }).max(200),
    from: instantText,
    to: instantText.optional(),
    board: z.int().positive().optional(),
    service: z.string().min(1).max(60).optional()
  })
  .refine(({ from, to }) => to === undefined || instantFromText(to) > instantFromText(from), {
    error: 'The end must be after the start.',
    path: ['to']
  })
  .refine(({ board, service }) => board === undefined || service === undefined, {
    error: 'Put it on a board or on a service, not on both.',
    path: ['service']
  });
export type NewMark = z.infer<typeof markSchema>;

/** A mark as it is shown. */
export interface Mark {
  /** 0 for an event that a provider told, which nobody can take away. */
  readonly id: number;
  readonly from: Instant;
  readonly to: Instant | null;
  readonly text: string;
  readonly board: number | null;
  readonly service: string | null;
  /** A person's, a program's, or an event told by a provider. */
  readonly source: 'person' | 'program' | 'provider';
  readonly by: string;
}

function isInstant(text: string): boolean {
  try {
    instantFromText(text);
    return true;
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}
