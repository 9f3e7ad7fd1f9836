import type { z } from 'zod';
import { Refusal } from '../problem/problem';
import { problemsOf } from './problems';

/** How something is stored as JSON: with the version of its form, so that what an older Bussola stored can be upgraded when it is read. */
export interface StoredForm<Value> {
  /** What it is, to people. @example 'The alarm' */
  readonly what: string;
  readonly version: number;
  readonly schema: z.ZodType<Value>;
  /** One step for each version but the newest: the first makes version 2 of version 1. What carries no version is of version 1. */
  readonly upgrades: readonly ((older: Readonly<Record<string, unknown>>) => Readonly<Record<string, unknown>>)[];
  /** The version is a part of the value itself, as in signals and plans; else it is stored beside its keys. */
  readonly ownsVersion?: boolean;
}

/** The JSON text under which a value is stored. @example writeStored(alarmForm, alarm) // '{"version":1,"name":…}' */
export const writeStored = <Value extends object>(form: StoredForm<Value>, value: Value): string =>
  JSON.stringify(form.ownsVersion ? value : { version: form.version, ...value });

/**
 * What was stored, upgraded to the newest form and checked by its schema.
 *
 * @param name of the one thing, for people
 * @throws Refusal (stored-unreadable) when it is of a newer version or does not fit
 * @example readStored(alarmForm, row.definition, row.name)
 */
export function readStored<Value>(form: StoredForm<Value>, stored: unknown, name: string): Value {
  const which = name === '' ? form.what : `${form.what} “${name}”`;
  if (stored === null || typeof stored !== 'object' || Array.isArray(stored))
    throw unreadable(which, 'It is not an object.');
  let value: Readonly<Record<string, unknown>> = { ...stored };
  const version = value['version'] ?? 1;
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1)
    throw unreadable(which, `Its version is ${JSON.stringify(version)}.`);
  if (version > form.version)
    throw unreadable(which, `It has version ${version}, and this Bussola knows up to ${form.version}.`);
  for (const upgrade of form.upgrades.slice(version - 1)) value = upgrade(value);
  if (!form.ownsVersion) {
    const { version: _, ...rest } = value;
    value = rest;
  }
  const read = form.schema.safeParse(value);
  if (read.success) return read.data;
  const [first] = problemsOf(read.error);
  throw unreadable(which, `${first?.path === '' ? '' : `${first?.path}: `}${first?.message ?? ''}`);
}

/** Those of several rows that can be read: one that is damaged does not hide the others. */
export function readableOf<Row, Value>(rows: readonly Row[], read: (row: Row) => Value): Value[] {
  return rows.flatMap((row) => {
    const one = attempt(() => read(row));
    return one instanceof Refusal ? [] : [one];
  });
}

/** Why some of several rows cannot be read. @example unreadableOf(rows, fromRow).map(({ message }) => message) */
export function unreadableOf<Row>(rows: readonly Row[], read: (row: Row) => unknown): Refusal[] {
  return rows.flatMap((row) => {
    const one = attempt(() => read(row));
    return one instanceof Refusal ? [one] : [];
  });
}

function attempt<Value>(read: () => Value): Value | Refusal {
  try {
    return read();
  } catch (error) {
    if (error instanceof Refusal && error.code === 'stored-unreadable') return error;
    throw error;
  }
}

const unreadable = (which: string, why: string): Refusal =>
  new Refusal(
    'stored-unreadable',
    `${which} cannot be read as it is stored. ${why}`.trim(),
    'A newer Bussola wrote it, or the database was changed by hand. Start that Bussola again, restore a backup, or remove it.'
  );
