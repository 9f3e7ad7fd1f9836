import { hasRights, type Role } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import { subjectOf } from '../audit/subjects';
import type { Context } from '../db/context';
import { inOneTransaction } from '../db/one-transaction';
import { alarmsOfRemoval, beginRemoval, endRemoval, restoreRows, takeRemoval, type Removal } from './removals';

const byEditors = [
  ...(['alarms', 'boards', 'budgets', 'channels', 'checks', 'derived', 'event-rules', 'folders', 'groups'] as const),
  ...(['marks', 'objectives', 'responses', 'rotas', 'routes', 'signals', 'summary-plans'] as const)
];
/** What rests when it is removed, by the first part of its address, with who may restore it: whoever may remove it; a board also its owner. */
export const restingKinds: ReadonlyMap<string, Role> = new Map<string, Role>([
  ...byEditors.map((kind) => [kind, 'editor'] as const),
  ['connectors', 'administrator'],
  ['followers', 'administrator'],
  ['line-rules', 'administrator'],
  ['teams', 'administrator']
]);

/**
 * Removes something so that it can be restored: whatever goes with it in the same transaction rests for 30 days. Changes are told once it is committed.
 *
 * @param remove does it, with the context that it is given
 * @example await resting(server, { kind: 'checks', id, by: 'Kaja Tamm' }, (inner) => removeCheck(inner, id))
 */
export async function resting<Server extends Context, Result>(
  server: Server,
  { kind, id, by }: { readonly kind: string; readonly id: number; readonly by: string },
  remove: (inner: Server) => Promise<Result>
): Promise<Result> {
  return inOneTransaction(server, async (inner, within) => {
    const { subject } = await subjectOf(within, kind, id);
    const removal = await beginRemoval(within, {
      ...{ kind, thingId: id, name: subject, removedAt: server.clock.now(), removedBy: by }
    });
    const removed = await remove(inner);
    await endRemoval(within, removal);
    return removed;
  });
}

/**
 * Restores what was removed, as it was. An alarm is judged anew.
 *
 * @throws Refusal `not-found` when it does not rest any more; `not-allowed`; `name-taken` where another one has its name or place now; `in-use` where something that it names is gone
 */
export async function restore(
  { db, changes }: Pick<Context, 'db' | 'changes'>,
  id: number,
  reader: { readonly id: number; readonly role: Role }
): Promise<Removal> {
  const back = await db
    .transaction(async (within) => {
      const removal = await takeRemoval(within, id, reader.id);
      if (removal === null)
        throw new Refusal('not-found', 'It does not rest any more.', 'What was removed can be restored for 30 days.');
      if (!removal.isOwn && !hasRights(reader.role, restingKinds.get(removal.kind) ?? 'administrator'))
        throw new Refusal('not-allowed', 'You may not restore this.', 'Ask an administrator.');
      const alarms = await alarmsOfRemoval(within, id);
      await restoreRows(within, id);
      return { removal, alarms };
    })
    .catch((error: unknown) => {
      throw conflictOf(error) ?? error;
    });
  for (const alarmId of back.alarms) {
    changes.tell('definition', { alarmId });
    changes.tell('alarm', { alarmId });
  }
  // Whatever it was, pages that show it look again, and whatever is judged by it is judged anew.
  changes.tell('definition', { alarmId: null });
  for (const name of ['routing', 'objectives', 'responses', 'summaries', 'followers'] as const) changes.tell(name, {});
  changes.tell('reachability', { checkId: null });
  changes.tell('costs', { accountId: null });
  changes.tell('connectors', {});
  return back.removal;
}

/** Why the database does not take it back; null for anything else. */
function conflictOf(error: unknown): Refusal | null {
  const code = error instanceof Error && 'code' in error ? error.code : null;
  if (code === '23505')
    return new Refusal('name-taken', 'Another one has its name or place now.', 'Rename or remove that one first.', {
      cause: error
    });
  if (code === '23503')
    return new Refusal('in-use', 'Something that it belongs to is gone.', 'Restore that first.', { cause: error });
  return null;
}
