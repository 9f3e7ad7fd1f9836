import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import { isZone, type Instant } from '../time';

const time = z
  .string()
  .regex(/^([01]\d|2[0-3]):[0-5]\d$/, { error: 'Give a time of day from 00:00 to 23:59, such as 08:00.' });
const date = z.iso
  .date({ error: 'Give a date, such as 2026-11-23.' })
  .refine((text) => text >= '1970-01-02' && text <= '2200-01-01', { error: 'Give a date between 1970 and 2200.' });
const zone = z.string().max(60).refine(isZone, { error: 'Give a time zone, such as Europe/Rome.' });

/** Hours of certain weekdays. Those that end at or before the time at which they begin go on into the next day; the same time twice is a whole day. */
export const weeklyHoursSchema = z.strictObject({
  /** 1 is Monday, 7 Sunday. */
  weekdays: z.array(z.int().min(1).max(7)).min(1, { error: 'Choose a weekday.' }).max(7),
  from: time,
  to: time
});
export type WeeklyHours = z.infer<typeof weeklyHoursSchema>;

/** People who have the watch in turn. */
export const layerSchema = z
  .strictObject({
    name: z.string().trim().max(60).default(''),
    /** Ids of people, in the order of their turns; somebody may come more than once. */
    people: z.array(z.int().positive()).min(1, { error: 'Choose somebody.' }).max(60),
    /** Days of a turn. */
    days: z.int().min(1).max(366),
    /** The day of the first handover, on which the turn of the first person begins. */
    from: date,
    /** The layer ends at the handover time of this day. */
    until: date.nullable().default(null),
    /** The time of the handover. */
    at: time,
    /** Of another place than the rota, for a watch that follows the sun. */
    zone: zone.nullable().default(null),
    /** When the layer has the watch; empty for always. */
    hours: z.array(weeklyHoursSchema).max(20).default([])
  })
  .refine(({ from, until }) => until === null || until > from, {
    path: ['until'],
    error: 'The layer ends before it begins.'
  });
export type Layer = z.infer<typeof layerSchema>;

/**
 * Who is on call when: layers of people who take turns. Where several layers have the watch, the last of them has it; where none has, nobody is on call.
 */
export const rotaSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the rota a name.' }).max(80),
  zone,
  /** The team that owns it; null for none. */
  teamId: z.int().positive().nullable().default(null),
  layers: z.array(layerSchema).min(1, { error: 'Add a layer.' }).max(10),
  /** Whoever has a shift is reminded so long before it begins; null for never. */
  remindBefore: z.int().min(300_000).max(604_800_000).nullable().default(3_600_000)
});
export type Rota = z.infer<typeof rotaSchema>;

/** How a rota is stored. */
export const rotaForm: StoredForm<Rota> = { what: 'The rota', version: 1, schema: rotaSchema, upgrades: [] };

/** A span for which somebody has the watch instead of whoever has it by the layers. */
export interface Override {
  readonly id: number;
  readonly from: Instant;
  readonly to: Instant;
  readonly personId: number;
}
