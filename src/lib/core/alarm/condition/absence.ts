import { z } from 'zod';
import { cellStart, durationFromText, spokenDuration } from '../../time';
import { lengthSchema } from './length';
import { plainComparison } from './comparison';
import type { ConditionKind } from './kind';

/**
 * No sample for so long, from a series that used to have some. One that never had any is not absent: nobody can tell whether it is to come.
 *
 * @example absenceSchema.parse({ kind: 'absence', for: 'PT10M' })
 */
export const absenceSchema = z.strictObject({ kind: z.literal('absence'), for: lengthSchema });
export type Absence = z.infer<typeof absenceSchema>;

export const absenceKind: ConditionKind<Absence> = {
  needs: ({ for: length }, step) => ({ lead: 0, begin: Math.ceil(durationFromText(length) / step) }),
  /** What is compared is the time since the end of the newest cell with a value, at the end of each cell, in ms. */
  compare: ({ for: length }, { grid, columns, lastValueAt = [] }) => {
    const longest = durationFromText(length);
    return columns.map((values, of) => {
      let last: number | null = lastValueAt[of] ?? null;
      const silent = new Float64Array(grid.count);
      for (let i = 0; i < grid.count; i++) {
        const value = values[i] as number;
        const at = cellStart(grid, i);
        if (value === value) last = at;
        silent[i] = last === null ? NaN : at - last;
      }
      // A silence of exactly that long counts.
      return plainComparison(silent, -Infinity, longest - 1);
    });
  },
  sentence: ({ for: length }) => `has had no sample for ${spokenDuration(durationFromText(length))}`
};
