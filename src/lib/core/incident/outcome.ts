import { z } from 'zod';

/** How an incident ended, as a person says it. */
export const outcomes = ['fixed', 'by-itself', 'expected', 'false-alarm', 'duplicate', 'other'] as const;
export type Outcome = (typeof outcomes)[number];

/** What these are called. */
export const outcomeWords: Readonly<Record<Outcome, string>> = {
  fixed: 'fixed',
  'by-itself': 'cleared by itself',
  expected: 'expected, such as planned work',
  'false-alarm': 'false alarm: nothing was wrong',
  duplicate: 'the same as another incident',
  other: 'something else'
};

/** What a person says who closes an incident. */
export const closingSchema = z
  .strictObject({
    outcome: z.enum(outcomes),
    text: z.string().trim().max(1000).default('').describe('What was done or found, in plain text.')
  })
  .refine(({ outcome, text }) => outcome !== 'other' || text !== '', {
    error: 'Write how it ended.',
    path: ['text']
  });
export type Closing = z.infer<typeof closingSchema>;

/**
 * How an incident ended, in a few words.
 *
 * @example outcomeText({ outcome: 'false-alarm', text: 'The limit was in the wrong unit.' }) // 'false alarm: The limit was in the wrong unit.'
 */
export function outcomeText({ outcome, text }: Closing): string {
  if (outcome === 'other') return text;
  const [short] = outcomeWords[outcome].split(/[,:]/);
  return text === '' ? outcomeWords[outcome] : `${short}: ${text}`;
}
