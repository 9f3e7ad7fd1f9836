import { Refusal } from '$lib/core/problem/problem';
import type { Occurrence } from '$lib/core/rota';
import { after, day, times, type Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import type { ParserPool } from '../parsing/parser-pool';
import { allPeople, type Person } from '../people/people';
import { requireRota } from './manage-rotas';
import { insertOverride } from './rotas';

/** What importing a calendar would do, or did. */
export interface ImportedCalendar {
  /** Spans that become overrides. */
  readonly overrides: readonly { readonly from: Instant; readonly to: Instant; readonly personId: number }[];
  /** Entries in which nobody of the workspace is named. */
  readonly unknown: readonly { readonly from: Instant; readonly summary: string }[];
}

/** How far ahead a calendar is read. */
const daysAhead = 365;

/**
 * Reads who has the watch from a calendar of another program: each entry of the next year that names somebody of the workspace, by name or address, is a span that they have.
 *
 * @param apply whether the overrides are made as well
 * @throws Refusal `not-found`, `unreadable` saying what is wrong with the file
 */
export async function importCalendar(
  { db, clock, changes, parsers }: Context & { readonly parsers: ParserPool },
  rotaId: number,
  text: string,
  apply: boolean,
  by: string
): Promise<ImportedCalendar> {
  const { rota } = await requireRota(db, rotaId);
  const now = clock.now();
  const read = await parsers.calendar(text, { from: now, to: after(now, times(daysAhead, day)) }, rota.zone);
  if (read.kind === 'unreadable')
    throw new Refusal('unreadable', read.message, 'Export the calendar as an iCalendar file (.ics) and try again.');
  const people = await allPeople(db);
  const overrides: ImportedCalendar['overrides'][number][] = [];
  const unknown: ImportedCalendar['unknown'][number][] = [];
  for (const occurrence of read.occurrences) {
    const person = personIn(occurrence, people);
    if (person === null) unknown.push({ from: occurrence.from, summary: occurrence.summary });
    else
      overrides.push({
        from: Math.max(occurrence.from, now) as Instant,
        to: occurrence.to,
        personId: person.id
      });
  }
  if (apply && overrides.length > 0) {
    await db.transaction(async (within) => {
      for (const override of overrides)
        await insertOverride(within, { rotaId, ...override, reason: 'imported' }, { at: now, by });
    });
    changes.tell('routing', {});
  }
  return { overrides, unknown };
}

/** Whoever an entry names: one who attends, or whose name is in its title; null for nobody, or several. */
function personIn({ summary, who }: Occurrence, people: readonly Person[]): Person | null {
  const attending = people.filter(({ name, displayName }) =>
    who.some((one) => one === displayName.toLowerCase() || one === name.toLowerCase() || one.startsWith(`${name}@`))
  );
  const title = summary.toLowerCase();
  const found =
    attending.length > 0 ? attending : people.filter(({ displayName }) => title.includes(displayName.toLowerCase()));
  return found.length === 1 ? (found[0] ?? null) : null;
}
