import type { SentKind } from '$lib/core/notify';
import type { Queryable } from '../db/pool';

/** The queue of each kind of channel: one whose server is slow or away holds no other up. @example queueOf('email') // 'deliver-email' */
export const queueOf = (kind: SentKind): string => `deliver-${kind}`;

/** The queue's own statements, run where ours run. It means null where it says undefined. */
export const queueOn = (db: Queryable) => ({
  executeSql: async (text: string, values: unknown[] = []) => ({
    rows: await db.rows(
      text,
      values.map((value) => value ?? null)
    )
  })
});
