import { z } from 'zod';
import { idSchema } from '../forms/id';
import { mostSearchCharacters } from '../logs/search/limits';
import { signalSchema } from '../signal';
import { durationFromText } from '../time';
import { boundSchema, cellLimitSchema, finite } from './limits';

/** How a series becomes one figure: of the cells that are shown. */
export const reductions = ['last', 'avg', 'max', 'min', 'sum'] as const;
export type Reduction = (typeof reductions)[number];

/** Ends of an axis in the unit of the signal; each follows the data when it is not said. */
export const axisSchema = z
  .strictObject({ from: finite.optional(), to: finite.optional(), log: z.boolean().optional() })
  .refine(({ from, to }) => from === undefined || to === undefined || from < to, {
    error: 'The end of the axis must be above its start.',
    path: ['to']
  })
  .refine(({ from, log }) => !log || from === undefined || from > 0, {
    error: 'A logarithmic axis must start above 0.',
    path: ['from']
  });
export type Axis = z.infer<typeof axisSchema>;

/** The table under a chart: rows shown unfolded (0 for no table), and in which order. */
export const legendSchema = z.strictObject({
  rows: z.int().min(0).max(50),
  order: z.enum(['highest', 'lowest', 'name'])
});
export type Legend = z.infer<typeof legendSchema>;

/** A length of time by which a comparison lies earlier. */
const earlier = z
  .string()
  .max(20)
  .refine((text) => isLength(text), { error: 'Give an ISO 8601 duration from PT1M to P400D, such as P7D.' });

const signal = signalSchema;
const reduce = z.enum(reductions).default('last');
const service = z.string().min(1).max(60).optional();
/** What marks a figure by a severity. */
const cellLimits = z.array(cellLimitSchema).max(8).optional();

/** What is drawn over time: one line, area or bar for each series. */
const overTime = {
  picture: z.enum(['lines', 'areas', 'stacked', 'bars']),
  signal,
  axis: axisSchema.optional(),
  limits: z.array(boundSchema).max(8).optional(),
  legend: legendSchema.optional(),
  earlier: earlier.optional()
};

/** One long bar for each series, by a figure of each. */
const ranks = { picture: z.literal('ranks'), signal, reduce, limits: cellLimits };

/** Parts of a whole. */
const ring = { picture: z.literal('ring'), signal, reduce };

/** One number, its course, and how it differs from earlier; or a tile for each series. */
const number = {
  picture: z.literal('number'),
  signal,
  reduce,
  /** A tile for each series instead of the highest alone. */
  each: z.boolean().optional(),
  earlier: earlier.optional(),
  limits: cellLimits
};

/** A bounded number on a scale of its own; limits lie on it, and `worse` says to which side it gets worse. */
const gauge = {
  picture: z.literal('gauge'),
  signal,
  reduce,
  scale: z
    .strictObject({ from: finite, to: finite })
    .refine(({ from, to }) => from < to, { error: 'The end of the scale must be above its start.', path: ['to'] }),
  warning: finite.optional(),
  danger: finite.optional(),
  worse: z.enum(['above', 'below']).default('above')
};

/** How a moment is written: how long ago, its day, day and time, or exactly with its zone. */
export const dateForms = ['ago', 'day', 'moment', 'exact'] as const;
export type DateForm = (typeof dateForms)[number];

/**
 * One column of a snapshot list, in the unit and with the digits of its signal. A column of dates takes its numbers for instants: seconds since the epoch, or milliseconds where its unit is ms.
 */
export const snapshotColumnSchema = z.strictObject({
  title: z.string().trim().min(1, { error: 'Give the column a title.' }).max(60),
  signal,
  reduce,
  show: z.enum(['number', 'shade', 'bar', 'course', 'date']).default('number'),
  /** Numbers as they are, neither scaled nor with a unit. */
  plain: z.boolean().optional(),
  date: z.enum(dateForms).optional(),
  limits: cellLimits
});
export type SnapshotColumn = z.infer<typeof snapshotColumnSchema>;

/** Many resources now: a row each, figures side by side. */
const snapshot = {
  picture: z.literal('snapshot'),
  columns: z.array(snapshotColumnSchema).min(1).max(12),
  sort: z.strictObject({ column: z.int().min(0).max(11), direction: z.enum(['highest', 'lowest']) }).optional(),
  /** Rows shown before the rest is unfolded. */
  rows: z.int().min(1).max(500).default(20)
};

/** Values cell by cell, newest first; series under other names where that is said. */
const table = {
  picture: z.literal('table'),
  signal,
  names: z.record(z.string().max(200), z.string().trim().min(1).max(120)).default({})
};

/** A row for each service or group: how many resources, and the highest severity raised there. */
const status = { picture: z.literal('status'), of: z.enum(['services', 'groups']) };

/** A row for each series, shaded cell by cell. */
const heat = { picture: z.literal('heat'), signal, limits: cellLimits };

/** How often values lie in which span. */
const histogram = { picture: z.literal('histogram'), signal, bins: z.int().min(2).max(200).default(20) };

/** Text in CommonMark. */
const text = { picture: z.literal('text'), text: z.string().max(20_000) };

const alarms = { picture: z.literal('alarms'), service };
const incidents = { picture: z.literal('incidents'), service, open: z.boolean().default(false) };

/** Resources whose newest sample is older than it should be. */
const silent = { picture: z.literal('silent'), service, minutes: z.int().min(1).max(44_640).default(15) };

/** Resources that were seen within some hours: when first, when last, and how they are. */
const resources = { picture: z.literal('resources'), service, hours: z.int().min(1).max(720).default(48) };

const marks = { picture: z.literal('marks') };

/** Promises with what is left of their error budgets: all, or some by their ids. */
const promises = { picture: z.literal('promises'), only: z.array(idSchema).max(50).default([]) };

/** The newest lines that a search finds. */
const log = {
  picture: z.literal('log'),
  search: z.string().max(mostSearchCharacters).default(''),
  rows: z.int().min(1).max(200).default(30)
};

/** Every picture with its own parts; what all panels have is added where panels are defined. */
export const pictureShapes = {
  overTime,
  ranks,
  ring,
  number,
  gauge,
  snapshot,
  table,
  status,
  heat,
  histogram,
  text,
  alarms,
  incidents,
  silent,
  resources,
  marks,
  promises,
  log
} as const;

function isLength(value: string): boolean {
  try {
    const length = durationFromText(value);
    return length >= 60_000 && length <= 400 * 86_400_000;
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}
