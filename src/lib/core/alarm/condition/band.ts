import { z } from 'zod';
import { bandEdge } from '../../band';
import type { Bound, Comparison } from './comparison';
import type { ConditionKind } from './kind';

/**
 * Above, below or outside of the anomaly band of a series, which is drawn so many widths around what is expected.
 *
 * @example bandSchema.parse({ kind: 'band', is: 'above', widths: 4 })
 */
export const bandSchema = z
  .strictObject({
    kind: z.literal('band'),
    is: z.enum(['above', 'below', 'outside']),
    /** Half the band's height, in widths: a small number finds more, and is wrong more often. */
    widths: z.number({ error: 'The number of widths must be a number.' }).min(0.5).max(50),
    /** Widths within which it may clear. */
    clear: z.number().min(0.1).max(50).optional()
  })
  .refine(({ widths, clear = widths }) => clear <= widths, {
    error: 'It cannot clear farther out than it is raised.',
    path: ['clear']
  });
export type Band = z.infer<typeof bandSchema>;

/** Widths by default. */
export const usualWidths = 5;

export const bandKind: ConditionKind<Band> = {
  needs: () => ({ lead: 0, bands: true }),
  compare: ({ is, widths, clear = widths }, { columns, bands = [] }) =>
    columns.map((subject, of): Comparison => {
      const band = bands[of] ?? null;
      if (band === null) return { subject, low: NaN, high: NaN, clearLow: NaN, clearHigh: NaN, meets: 'outside' };
      const edge = (side: 'below' | 'above', by: number): Bound => bandEdge(band, side === 'above' ? by : -by);
      const [lower, upper] = [is !== 'above', is !== 'below'];
      return {
        subject,
        low: lower ? edge('below', widths) : -Infinity,
        high: upper ? edge('above', widths) : Infinity,
        clearLow: lower ? edge('below', clear) : -Infinity,
        clearHigh: upper ? edge('above', clear) : Infinity,
        meets: 'outside'
      };
    }),
  sentence: ({ is, widths }) => `is ${is} its anomaly band of ${widths} ${widths === 1 ? 'width' : 'widths'}`
};
