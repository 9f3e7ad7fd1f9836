import { z } from 'zod';
import { plainComparison } from './comparison';
import type { ConditionKind } from './kind';

/**
 * So many of the parts of a combined alarm hold: any, all, or at least a number.
 *
 * @example combinedSchema.parse({ kind: 'combined', needs: 'all' })
 */
export const combinedSchema = z.strictObject({
  kind: z.literal('combined'),
  needs: z.union([z.enum(['any', 'all']), z.int().min(1).max(20)], { error: 'Choose any, all, or how many.' })
});
export type Combined = z.infer<typeof combinedSchema>;

export const combinedKind: ConditionKind<Combined> = {
  needs: () => ({ lead: 0 }),
  /** What is compared is how many parts hold. Where some cannot be told, that counts only if they could decide. */
  compare: ({ needs }, { columns, mayHold = [], parts = 1 }) => {
    const wanted = needs === 'any' ? 1 : needs === 'all' ? parts : needs;
    return columns.map((hold, of) => {
      const subject = Float64Array.from(hold, (least, i) => {
        const most = mayHold[of]?.[i] ?? least;
        return least >= wanted ? least : most < wanted ? most : NaN;
      });
      return plainComparison(subject, -Infinity, wanted - 0.5);
    });
  },
  sentence: ({ needs }) => {
    if (needs === 'any') return 'any of its parts holds';
    return needs === 'all' ? 'all of its parts hold' : `at least ${needs} of its parts hold`;
  }
};
