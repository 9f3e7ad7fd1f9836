import { z } from 'zod';
import { idSchema } from '../forms/id';
import { steadySignalSchema } from '../signal';
import { conditionSchema } from './condition';
import { durationFromText } from '../time';
import { isLength, lengthSchema } from './condition/length';

/** A part of a combined alarm that is a condition on a signal. */
const conditionPartSchema = z.strictObject({
  name: z.string().trim().min(1).max(60),
  signal: steadySignalSchema,
  condition: conditionSchema.refine(({ kind }) => kind !== 'combined', {
    error: 'A part has a condition on its signal.'
  })
});

/** A part of a combined alarm: another alarm, which holds while it is raised, or a condition on a signal. @param alarm what an alarm is called by */
const partOf = <Alarm extends z.ZodType>(alarm: Alarm) =>
  z.union([z.strictObject({ alarm }), conditionPartSchema], {
    error: 'A part is another alarm, or a named condition on a signal.'
  });
export const partSchema = partOf(idSchema);
export type Part = z.infer<typeof partSchema>;

/** What a combined alarm is made of. @param alarm what an alarm is called by: its id where it is stored, its name in files */
export const combinesOf = <Alarm extends z.ZodType>(alarm: Alarm) =>
  z.strictObject({
    parts: z.array(partOf(alarm)).min(2, { error: 'Combine at least two.' }).max(10),
    /** Labels on whose equal values the series of the parts are joined; with none, a part holds while any of its series does. */
    by: z.array(z.string().min(1).max(120)).max(4),
    /** The length of a cell: as that of a signal, up to half a day. */
    step: lengthSchema.refine((text) => !isLength(text) || durationFromText(text) <= 43_200_000, {
      error: 'Cells have at most 12 hours here.'
    })
  });
export const combinesSchema = combinesOf(idSchema);
export type Combines = z.infer<typeof combinesSchema>;
