import type { Problem } from '$lib/core/problem/problem';
import { unreadableAlarms } from '../alarms/alarms';
import { unreadableBoards } from '../boards/boards';
import { budgets } from '../cost/budgets';
import { objectives } from '../objective/objectives';
import type { Queryable } from '../db/pool';
import { unreadableEvidence } from '../incidents/incidents';
import { unreadableChannels } from '../notify/channels';
import { unreadablePlans } from '../intake/plan/plans';
import { unreadableDerived } from '../query/derived/derived';
import { unreadableGroups } from '../query/groups/groups';
import { unreadableTemplates } from '../notify/message-templates';
import { unreadableQuiet } from '../people/people';
import { unreadableRotas } from '../rotas/rotas';
import { unreadableRoutes } from '../routing/routes';
import { unreadableChecks } from '../reachability/checks';
import { unreadableResponses } from '../responses/responses';
import { unreadableSummaryPlans } from '../summary/plans';
import { unreadableEventRules } from '../events/event-rules';
import { unreadableLineRules } from '../logs/line-rules';
import { unreadableShelvings } from '../shelving/shelvings';
import { unreadableSignals } from '../query/signals/signals';

/**
 * Everything that is stored as JSON and cannot be read: it is left out of every list, so this is where people learn of it.
 *
 * @example (await unreadableStored(db)).map(({ message }) => message)
 */
export async function unreadableStored(db: Queryable): Promise<Problem[]> {
  const every = await Promise.all(
    [
      unreadableAlarms,
      unreadableSignals,
      unreadableDerived,
      unreadableGroups,
      unreadableBoards,
      unreadablePlans,
      unreadableChannels,
      unreadableRoutes,
      unreadableRotas,
      unreadableShelvings,
      unreadableLineRules,
      unreadableEventRules,
      unreadableChecks,
      unreadableResponses,
      unreadableSummaryPlans,
      (of: Queryable) => budgets.unreadable(of),
      (of: Queryable) => objectives.unreadable(of),
      unreadableQuiet,
      unreadableTemplates,
      unreadableEvidence
    ].map((unreadable) => unreadable(db))
  );
  return every.flat();
}
