import { idFrom } from '$lib/core/forms/id';
import { signalSchema, type Signal } from '$lib/core/signal';
import { allMetrics } from '$server/inventory/metrics';
import { permitFor, titlesFor } from '$server/boards/permit';
import type { Queryable } from '$server/db/pool';
import { alarmById } from '$server/alarms/alarms';
import { bussola } from '$server/process/running';
import { signalById } from '$server/query/signals/signals';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, untrack, locals }) => {
  const { db } = bussola();
  const kept = idFrom(url.searchParams.get('kept'));
  const alarmId = idFrom(url.searchParams.get('alarm'));
  const [metrics, named, alarm, boards] = await Promise.all([
    allMetrics(db),
    kept === null ? null : signalById(db, kept),
    alarmId === null ? null : alarmById(db, alarmId),
    titlesFor(db, locals.person)
  ]);
  const panel = await panelOf(db, locals.person, url.searchParams);
  return {
    metrics: Object.fromEntries(
      metrics.map(({ name, title, unit, kind, shape, resourceType, samplingMs }) => [
        name,
        { name, title, unit, kind, shape, resourceType, samplingMs }
      ])
    ),
    kept: named && {
      id: named.id,
      name: named.name,
      signal: named.definition,
      changedAt: named.changedAt,
      changedBy: named.changedBy
    },
    alarm: alarm && { id: alarm.id, name: alarm.definition.name },
    panel,
    boards: boards.filter(({ may }) => may === 'edit').map(({ id, title }) => ({ id, title })),
    missing: kept !== null && named === null,
    // Not read again with every change that the bench itself writes into its address.
    ...signalFrom(untrack(() => url.searchParams.get('signal')))
  };
};

/** The signal that an address holds. What cannot be read is said, and the bench is empty then. */
function signalFrom(text: string | null): { signal: Signal | null; unreadable: boolean } {
  if (text === null) return { signal: null, unreadable: false };
  try {
    const signal = signalSchema.safeParse(JSON.parse(text)).data ?? null;
    return { signal, unreadable: signal === null };
  } catch (error) {
    if (error instanceof SyntaxError) return { signal: null, unreadable: true };
    throw error;
  }
}

/** The panel of a board that a signal is composed for, when the person may change it. */
async function panelOf(
  db: Queryable,
  person: App.Locals['person'],
  search: URLSearchParams
): Promise<{ board: number; id: string; title: string } | null> {
  const board = idFrom(search.get('board'));
  const permit = board !== null ? await permitFor(db, person, board, 'edit') : null;
  const panel = permit?.kind === 'yes' ? permit.board.panels.find(({ id }) => id === search.get('panel')) : undefined;
  return panel && board !== null ? { board, id: panel.id, title: panel.title } : null;
}
