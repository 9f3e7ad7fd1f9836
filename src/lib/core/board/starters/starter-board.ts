import { usualStatistic } from '../../signal/compose';
import { asksFor, fixedStepOf, isPick, linesOf, picksOf, plainSignal, type Signal } from '../../signal';
import { serviceByKey } from '../../services';
import { duration, minute, textFromDuration } from '../../time';
import { freePlace } from '../grid-area';
import type { Picker } from '../picker';
import {
  boardSchema,
  mapSignals,
  mostPanels,
  signalsOf,
  type Board,
  type Panel,
  type PanelContent,
  type Section
} from '../schema';
import { caches, databases, objects, pipelines, queues, replication } from './data';
import { machineGroups, machines } from './machines';
import type { ClusterPart } from '../../clusters';
import { clusterParts, partName, type ClusterPlace } from './cluster-board';
import { budgets } from './budgets';
import { bussola } from './bussola';
import { objectives } from './objectives';
import { reachability } from './reachability';
import { overTime, raised, type Starter, type StarterPart } from './parts';
import { balancers, clusters, functions, gateways } from './serving';
import { targets } from './targets';
import { watch } from './watch';

/** The ready boards by the service they are of; `watch` is of all. */
const starters: Readonly<Record<string, Starter>> = {
  machines,
  'machine-groups': machineGroups,
  databases,
  functions,
  queues,
  clusters,
  balancers,
  objects,
  caches,
  pipelines,
  replication,
  gateways,
  reachability,
  budgets,
  objectives,
  bussola,
  targets,
  watch
};

/** Services that have a board of their own, and `watch`. */
export const starterKeys: readonly string[] = Object.keys(starters);

/** What a starter looks at of a metric. */
export interface StarterMetric {
  readonly name: string;
  readonly title: string;
  readonly kind: string;
  readonly recommended: boolean;
  readonly samplingMs: number;
  readonly delayMs: number;
  /** Whether any series of it is there. */
  readonly isCollected: boolean;
  /** How many series it has; few where that is not said. */
  readonly series?: number;
}

/** Series that a chart tells apart. */
const mostApart = 8;

/** A ready board, filled. */
export interface StarterBoard {
  readonly board: Board;
  /** Metrics that it would show if they were collected. */
  readonly lacks: readonly string[];
}

/** Panels of a board for a service that has no starter of its own. */
const mostUnknown = 8;

/**
 * The ready board of a service, of what is collected. A panel none of whose metrics is collected is left out, and so are the columns of a list; what is left out is
 * told. A service without a starter of its own gets a panel for each of its first recommended metrics that do not come hours late.
 *
 * @param metrics of the service; of all services for `watch`
 * @example starterBoard('queues', metrics).board.title // 'Queues'
 */
export function starterBoard(service: string, metrics: readonly StarterMetric[]): StarterBoard {
  const starter = Object.hasOwn(starters, service) ? (starters[service] as Starter) : unknownStarter(service, metrics);
  const isCollected = (wanted: string) => metrics.some(({ name, isCollected }) => isCollected && asksFor(wanted, name));
  const lacks = new Set<string>();
  const filled = starter.parts.flatMap((part): StarterPart[] => {
    const content = collectedOf(shownOf(part, metrics), isCollected, lacks);
    return content === null ? [] : [{ ...part, content: inUsefulRange(content, metrics) }];
  });
  const title = service === 'watch' ? 'Watch' : serviceByKey(service).title;
  return { board: laidOut(title, service, starter.about, filled, starter.pickers), lacks: [...lacks] };
}

/** Panels of each service on the board of a group. */
const mostOfService = 4;

/**
 * The ready board of a group: a section for each service that it has resources of, with the first panels of that service's board, narrowed to the group.
 *
 * @param services in the order of the index
 */
export function groupBoard(
  group: string,
  services: readonly { readonly service: string; readonly metrics: readonly StarterMetric[] }[]
): Board {
  const only = (row: Signal['rows'][number]) =>
    isPick(row) ? { ...row, where: [...row.where, { label: 'group', is: [group] }] } : row;
  const parts = services.flatMap(({ service, metrics }) =>
    starterBoard(service, metrics)
      // Lines are of no group.
      .board.panels.filter(
        (panel) => signalsOf(panel).length > 0 && signalsOf(panel).every((one) => linesOf(one).length === 0)
      )
      .slice(0, mostOfService)
      .map(({ id: _, place: { w, h }, section: _s, ...content }): StarterPart => {
        const narrowed = mapSignals(content as PanelContent, (signal) => ({ ...signal, rows: signal.rows.map(only) }));
        return { content: narrowed, size: { w, h }, section: serviceByKey(service).title };
      })
  );
  const board = laidOut(group, 'watch', `What is collected of the group ${group}.`, parts);
  const { service: _, ...plain } = board;
  return plain;
}

/**
 * The board of one resource: a panel for each of its metrics, recommended ones first, and what was raised and noted.
 *
 * @param metrics that series of the resource have
 */
export function resourceBoard(
  { name, account, service }: { readonly name: string; readonly account: string; readonly service: string },
  metrics: readonly Omit<StarterMetric, 'isCollected'>[]
): Board {
  const where = [
    { label: 'resource', is: [name] },
    { label: 'account', is: [account] }
  ];
  const inOrder = [...metrics].sort((a, b) => Number(b.recommended) - Number(a.recommended)).slice(0, mostPanels - 2);
  const parts = inOrder.map(({ name: metric, title, kind, samplingMs }) => {
    const step = textFromDuration(duration(Math.max(minute, samplingMs)));
    return overTime(title, plainSignal({ metric, statistic: usualStatistic(kind), where, step }), [6, 3]);
  });
  const board = laidOut(name, service, `Everything that is collected of ${name}.`, [
    ...parts,
    { content: { title: 'Marks and events', picture: 'marks' }, size: { w: 6, h: 3 } }
  ]);
  return { ...board, pickers: [] };
}

/**
 * The board of a part of a cluster. Metrics that are not collected are left out, and panels that have none left.
 *
 * @example clusterBoard({ account: 'fleet-edge', cluster: 'harbour-cluster' }, { kind: 'node', node: 'harbour-n1' }, metrics).title // 'harbour-n1'
 */
export function clusterBoard(
  place: ClusterPlace,
  part: ClusterPart,
  metrics: readonly Pick<StarterMetric, 'name' | 'isCollected'>[]
): Board {
  const name = partName(part);
  const isCollected = (wanted: string) => metrics.some((one) => one.isCollected && one.name === wanted);
  const parts = clusterParts(place, part).flatMap(({ content, ...rest }): StarterPart[] => {
    if (!('signal' in content)) return [{ content, ...rest }];
    const rows = content.signal.rows.filter((row) => !isPick(row) || isCollected(row.metric));
    if (rows.length === 0) return [];
    const { show, ...plain } = content.signal;
    const shown = show?.filter((name) => rows.some((row) => row.name === name));
    const signal = { ...plain, rows, ...(shown !== undefined && { show: shown }) };
    return [{ content: { ...content, signal }, ...rest }];
  });
  return { ...laidOut(name, 'clusters', `What ${name} uses, its restarts and its lines.`, parts), pickers: [] };
}

/** The chart of a part, or its list where its signals have many series. */
function shownOf({ content, ofMany }: StarterPart, metrics: readonly StarterMetric[]): PanelContent {
  if (ofMany === undefined) return content;
  const wanted = signalsOf(content as Panel).flatMap(picksOf);
  const series = metrics
    .filter(({ name }) => wanted.some(({ metric }) => asksFor(metric, name)))
    .reduce((sum, one) => sum + (one.series ?? 0), 0);
  return series > mostApart ? ofMany : content;
}

/** Metrics whose samples are at least this far apart show nothing useful in three hours; what a panel of them opens with instead. */
const slow = 30 * minute;
const rangeOfSlow = 'P3D';

/** A panel that opens with a range in which its metrics have a course. */
function inUsefulRange(content: PanelContent, metrics: readonly StarterMetric[]): PanelContent {
  const picked = signalsOf(content as Panel)
    .flatMap(picksOf)
    .flatMap(({ metric }) => metrics.filter(({ name }) => asksFor(metric, name)));
  const steps = signalsOf(content as Panel).map(fixedStepOf);
  const isSlow =
    picked.length > 0 &&
    (picked.every(({ samplingMs }) => samplingMs >= slow) || steps.every((step) => step !== null && step >= slow));
  return isSlow && content.range === undefined ? { ...content, range: rangeOfSlow } : content;
}

/** What is left of a panel when only what is collected is shown; null when nothing is. */
function collectedOf(
  content: PanelContent,
  isCollected: (metric: string) => boolean,
  lacks: Set<string>
): PanelContent | null {
  const missing = (of: PanelContent | { signal: Parameters<typeof picksOf>[0] }): string[] =>
    ('signal' in of ? [of.signal] : signalsOf(of as PanelContent))
      .flatMap(picksOf)
      .map(({ metric }) => metric)
      .filter((metric) => !isCollected(metric));
  for (const metric of missing(content)) lacks.add(metric);
  if (content.picture !== 'snapshot') return missing(content).length === 0 ? content : null;
  const columns = content.columns.filter((column) => missing(column).length === 0);
  return columns.length === 0 ? null : { ...content, columns };
}

function laidOut(
  title: string,
  service: string,
  about: string,
  parts: readonly StarterPart[],
  pickersOfService?: Starter['pickers']
): Board {
  const headings = [...new Set(parts.flatMap(({ section }) => section ?? []))];
  const sections = headings.map((heading, index): Section => ({
    id: `part-${index + 1}`,
    title: heading,
    folded: false
  }));
  const panels: Panel[] = [];
  for (const { content, size, section } of parts) {
    const id = section === undefined ? undefined : `part-${headings.indexOf(section) + 1}`;
    const taken = panels.filter((panel) => panel.section === id).map(({ place }) => place);
    panels.push({
      ...content,
      id: `p${panels.length + 1}`,
      place: freePlace(taken, size),
      ...(id === undefined ? {} : { section: id })
    });
  }
  const { one } = serviceByKey(service);
  const pickers = [
    { name: 'account', title: 'Account', label: 'account' },
    ...(pickersOfService ?? [
      { name: 'region', title: 'Region', label: 'region' },
      ...(service === 'watch' ? [] : [{ name: 'resource', title: capital(one), label: 'resource' }])
    ])
  ].map((picker): Picker => ({ ...picker, several: true, usual: [] }));
  return boardSchema.parse({ title, about, service, pickers, sections, panels });
}

function unknownStarter(service: string, metrics: readonly StarterMetric[]): Starter {
  const shown = metrics
    .filter(({ recommended, delayMs, isCollected }) => recommended && isCollected && delayMs < 600_000)
    .slice(0, mostUnknown);
  return {
    about: `What is collected of ${serviceByKey(service).several}.`,
    parts: [
      ...shown.map(({ name, title, kind }) =>
        overTime(title, plainSignal({ metric: name, statistic: usualStatistic(kind) }))
      ),
      raised(service, [6, 3])
    ]
  };
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
