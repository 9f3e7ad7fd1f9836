import { z } from 'zod';
import { idSchema } from '../forms/id';
import { instantTextSchema } from '../forms/instant-text';
import { instantFromText, type Instant } from '../time';

/**
 * A mark as it is put: of an instant, or of a span when it has an end; on one board, on all of a service, or everywhere.
 *
 * @example markSchema.parse({ text: 'fares 4.18 deployed', from: '2026-05-04T11:20:00Z', service: 'databases' })
 */
export const markSchema = z
  .strictObject({
    text: z.string().trim().min(1, { error: 'Say what happened.' }).max(200),
    from: instantTextSchema,
    to: instantTextSchema.optional(),
    board: idSchema.optional(),
    service: z.string().min(1).max(60).optional()
  })
  .refine(({ from, to }) => to === undefined || instantFromText(to) > instantFromText(from), {
    when: ({ issues }) => issues.length === 0,
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
  /** 0 for an event that a provider reported, which nobody can remove. */
  readonly id: number;
  readonly from: Instant;
  readonly to: Instant | null;
  readonly text: string;
  readonly board: number | null;
  readonly service: string | null;
  /** A person's, a program's, or an event reported by a provider. */
  readonly source: 'person' | 'program' | 'provider';
  readonly by: string;
}
