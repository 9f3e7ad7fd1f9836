// alarm_versions
import { alarmForm, type AlarmDefinition } from '$lib/core/alarm';
import { readStored, readableOf } from '$lib/core/forms/stored';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** A definition that an alarm had from a moment on. */
export interface AlarmVersion {
  readonly version: number;
  readonly definition: AlarmDefinition;
  readonly at: Instant;
  readonly by: string;
}

type Row = Omit<AlarmVersion, 'definition'> & { readonly definition: unknown };
const columns = 'version, definition, at, by';
const fromRow = (row: Row): AlarmVersion => ({ ...row, definition: readStored(alarmForm, row.definition, '') });

/** The definitions that an alarm had, newest first; those that can be read. */
export async function versionsOfAlarm(db: Queryable, alarmId: number, most = 100): Promise<AlarmVersion[]> {
  const rows = await db.rows<Row>(
    `select ${columns}
     from alarm_versions
     where alarm_id = $1
     order by version desc
     limit $2`,
    [alarmId, most]
  );
  return readableOf(rows, fromRow);
}

/** One definition that an alarm had; null when there is no such version. */
export async function versionOfAlarm(db: Queryable, alarmId: number, version: number): Promise<AlarmVersion | null> {
  const [row] = await db.rows<Row>(`select ${columns} from alarm_versions where alarm_id = $1 and version = $2`, [
    alarmId,
    version
  ]);
  return row ? fromRow(row) : null;
}

/** The definition that was in force at a moment; null when the alarm was not there yet. */
export async function versionAt(db: Queryable, alarmId: number, at: Instant): Promise<AlarmVersion | null> {
  const [row] = await db.rows<Row>(
    `select ${columns}
     from alarm_versions
     where alarm_id = $1 and at <= $2
     order by version desc
     limit 1`,
    [alarmId, at]
  );
  return row ? fromRow(row) : null;
}

/** Notes the present definition of an alarm as a version. */
export async function noteVersion(within: Queryable, alarmId: number): Promise<void> {
  await within.rows(
    `insert into alarm_versions (alarm_id, version, definition, at, by)
     select id, version, definition, changed_at, changed_by
     from alarms
     where id = $1
     on conflict (alarm_id, version) do nothing`,
    [alarmId]
  );
}
