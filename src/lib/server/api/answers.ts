import { z } from 'zod';
import { sharingSchema } from '$lib/core/board';
import { problemCodes, type ProblemCode } from '$lib/core/problem/problem';
import type { BoardSharing } from '../boards/boards';
import { asStored, instant } from './operation';

const codes = Object.keys(problemCodes) as [ProblemCode, ...ProblemCode[]];

/** Why something was refused, as RFC 9457 writes it. */
export const problemSchema = z.object({
  type: z.string().describe('An address that names the code.').optional(),
  title: z.string().describe('What the code means.').optional(),
  status: z.int().optional(),
  detail: z.string().describe('The same as message.').optional(),
  code: z.enum(codes).describe('Stable: go by this, never by the words of a message.'),
  message: z.string(),
  remedy: z.string(),
  path: z
    .array(z.union([z.string(), z.int()]))
    .describe('What it is about, within what was sent.')
    .optional(),
  place: z.tuple([z.int(), z.int()]).describe('Where in the text at the path, from and to in characters.').optional(),
  problems: z
    .array(z.object({ path: z.string(), line: z.int().nullable().optional(), message: z.string() }))
    .describe('Everything that is wrong, where that is more than one thing.')
    .optional()
});

/** What `POST /api/v1/query` answers: cells of a signal on one grid. */
export const answerSchema = z.object({
  now: instant,
  start: instant.describe('Start of the first cell.'),
  step: z.int().describe('Length of a cell, ms.'),
  count: z.int().describe('Cells of each series.'),
  complete: z.int().describe('Cells that are complete in the series that is furthest.'),
  partial: z.object({ missing: z.int(), of: z.int() }).nullable(),
  rows: z.array(z.object({ name: z.string(), unit: z.string().describe('UCUM code.') })),
  series: z.array(
    z.object({
      id: z.int(),
      seriesId: z.int().nullable(),
      row: z.string(),
      name: z.string(),
      labels: z.record(z.string(), z.string()),
      account: z.string(),
      region: z.string(),
      resource: z.string(),
      resourceId: z.int(),
      newest: instant.nullable(),
      complete: z.int(),
      values: z
        .union([z.array(z.number().nullable()), z.string()])
        .describe(
          'Numbers with null in gaps; or, when asked for packed, base64 of doubles, the lowest byte first, with NaN in gaps.'
        )
    })
  ),
  notes: z.array(z.object({ row: z.string(), text: z.string() })),
  effort: z.object({ series: z.int(), points: z.int(), resolution: z.number(), milliseconds: z.number() })
});

export const answerListSchema = z.array(z.union([answerSchema, problemSchema]));

/** With whom a board is shared, and whose it is. */
export const boardSharingAnswer = asStored<BoardSharing>(
  sharingSchema.extend({ owner: z.int().nullable(), ownerName: z.string().nullable() })
);
