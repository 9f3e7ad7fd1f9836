import { graver, type DrawnLimit, type Severity, type State } from '$lib/core/alarm';
import {
  signalsOf,
  type Board,
  type Choices,
  type Panel,
  type PanelOf,
  type PictureKind,
  type SeenResource
} from '$lib/core/board';
import { belonging, type GroupRule } from '$lib/core/group';
import {
  asksFor,
  conditionMatcher,
  picksOf,
  resourceKey,
  type LabelCondition,
  type SeriesLabels
} from '$lib/core/signal';
import type { Instant } from '$lib/core/time';
import { groupLabelsOf } from '../query/groups/members';
import type { Resource } from '../inventory/resources';

/** What could be shown, of the whole workspace. */
export interface AllThings {
  readonly now: Instant;
  readonly alarms: readonly {
    readonly id: number;
    readonly name: string;
    readonly severity: Severity;
    readonly service: string | null;
    readonly metric: string | null;
    readonly limits: readonly DrawnLimit[];
    readonly error: string | null;
  }[];
  /** The state of each series that an alarm watches. */
  readonly states: readonly { readonly alarmId: number; readonly labels: SeriesLabels; readonly state: State }[];
  readonly incidents: readonly {
    readonly id: number;
    readonly alarmId: number | null;
    readonly alarm: string;
    readonly subject: string;
    readonly resource: string;
    readonly account: string;
    readonly service: string;
    readonly severity: Severity;
    readonly openedAt: Instant;
    readonly closedAt: Instant | null;
  }[];
  readonly resources: readonly Resource[];
  readonly groups: readonly { readonly id: number; readonly name: string; readonly rule: GroupRule }[];
  readonly seen: readonly SeenResource[];
  readonly reporting: readonly {
    readonly id: number;
    readonly name: string;
    readonly account: string;
    readonly service: string;
    readonly newest: Instant | null;
    readonly dueBy: Instant | null;
  }[];
}

/**
 * What somebody who sees a board by a link sees besides its numbers: only what its panels list, of what was picked when the link was made. Limits of alarms are drawn on
 * charts of their metric, but not who they are.
 */
export function sharedThings(board: Board, choices: Choices, all: AllThings) {
  const keyOf = ({ account, name }: { account: string; name: string }): string => resourceKey(account, name);
  const labelsOf = new Map(all.resources.map((one) => [keyOf(one), groupLabelsOf(one)]));
  const panels = board.panels.map((panel) => ({ panel, shows: narrowedTo(board, choices, panel) }));
  const panelsOf = <Kind extends PictureKind>(kind: Kind) =>
    panels.flatMap(({ panel, shows }) =>
      panel.picture === kind ? [{ panel: panel as unknown as PanelOf<Kind>, shows }] : []
    );
  const showsResource = (shows: Shows, account: string, name: string): boolean => {
    const labels = labelsOf.get(resourceKey(account, name));
    return shows === null || (labels !== undefined && shows(labels));
  };
  const isOfService = (panel: { service?: string | undefined }, service: string | null): boolean =>
    panel.service === undefined || panel.service === service;

  const statesOf = (alarmId: number, shows: Shows) =>
    all.states.filter((one) => one.alarmId === alarmId && (shows === null || shows(one.labels)));
  const listed = panelsOf('alarms');
  const drawn = panels.filter(({ panel }) => panel.picture !== 'alarms');
  const alarms = all.alarms.flatMap((alarm) => {
    const { id, severity, metric, limits } = alarm;
    const lists = listed.filter(
      ({ panel, shows }) => isOfService(panel, alarm.service) && (shows === null || statesOf(id, shows).length > 0)
    );
    const [list] = lists;
    if (list) return [{ ...alarm, counts: countsOf(statesOf(id, list.shows)) }];
    const isDrawn = drawn.some(
      ({ panel, shows }) =>
        metric !== null &&
        signalsOf(panel)
          .flatMap(picksOf)
          .some((pick) => asksFor(pick.metric, metric)) &&
        (shows === null || statesOf(id, shows).length > 0)
    );
    return isDrawn ? [{ id, name: '', severity, service: null, metric, limits, error: null, counts: {} }] : [];
  });

  const incidents = all.incidents.flatMap(({ account, resource, ...incident }) => {
    const isOpen = incident.closedAt === null;
    const isListed = panelsOf('incidents').some(
      ({ panel, shows }) =>
        isOfService(panel, incident.service) && (isOpen || !panel.open) && showsResource(shows, account, resource)
    );
    if (isListed) return [incident];
    // A snapshot list shows that something is open on a row, and how grave it is.
    const isMarked = isOpen && panelsOf('snapshot').some(({ shows }) => showsResource(shows, account, resource));
    return isMarked ? [{ ...incident, alarmId: 0, alarm: '' }] : [];
  });

  const worstOn = (resources: readonly Resource[]): Severity | null => {
    const keys = new Set(resources.map(keyOf));
    return all.incidents
      .filter(({ closedAt, account, resource }) => closedAt === null && keys.has(resourceKey(account, resource)))
      .reduce<Severity | null>((worst, { severity }) => graver(worst, severity), null);
  };
  const status = panelsOf('status');
  const seenOn = (of: 'services' | 'groups') => {
    const those = status.filter(({ panel }) => panel.of === of);
    return all.resources.filter((one) =>
      those.some(({ shows }) => one.endedAt === null && showsResource(shows, one.account, one.name))
    );
  };
  const onServices = seenOn('services');
  const onGroups = seenOn('groups');
  const isNarrowed = status.every(({ shows }) => shows !== null);
  return {
    alarms,
    incidents,
    services: [...new Set(onServices.map(({ service }) => service))].map((service) => {
      const own = onServices.filter((one) => one.service === service);
      return { service, resources: own.length, worst: worstOn(own) };
    }),
    groups: status.some(({ panel }) => panel.of === 'groups')
      ? all.groups.flatMap(({ id, name, rule }) => {
          const belongs = belonging(rule);
          const own = onGroups.filter((resource) => belongs(groupLabelsOf(resource)));
          return own.length > 0 || !isNarrowed ? [{ id, name, resources: own.length, worst: worstOn(own) }] : [];
        })
      : [],
    seen: all.seen.filter(({ account, name, service }) =>
      panelsOf('resources').some(
        ({ panel, shows }) => isOfService(panel, service) && showsResource(shows, account, name)
      )
    ),
    reporting: all.reporting.filter(({ account, name, service, dueBy }) =>
      panelsOf('silent').some(
        ({ panel, shows }) =>
          isOfService(panel, service) &&
          dueBy !== null &&
          all.now - dueBy > panel.minutes * 60_000 &&
          showsResource(shows, account, name)
      )
    )
  };
}

/** Whether something with some labels is shown; null where everything is. */
type Shows = ((labels: SeriesLabels) => boolean) | null;

/** What a panel is narrowed to by what was picked. */
function narrowedTo({ pickers }: Board, choices: Choices, { ignores = [] }: Panel): Shows {
  const where = pickers.flatMap(({ name, label }): LabelCondition[] => {
    const chosen = ignores.includes(name) ? [] : (choices[name] ?? []);
    return chosen.length > 0 ? [{ label, is: [...chosen] }] : [];
  });
  return where.length > 0 ? conditionMatcher(where) : null;
}

function countsOf(states: readonly { readonly state: State }[]): Partial<Record<State, number>> {
  const counts: Partial<Record<State, number>> = {};
  for (const { state } of states) counts[state] = (counts[state] ?? 0) + 1;
  return counts;
}
