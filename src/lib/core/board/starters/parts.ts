import type { Combine, LabelCondition, SignalPick, Signal } from '../../signal';
import type { Bound } from '../limits';
import type { Reduction } from '../pictures';
import type { PanelContent, GridArea } from '../schema';

/** A panel of a starter with its size; it is left out when none of its metrics is collected. */
export interface StarterPart {
  readonly content: PanelContent;
  readonly size: globalThis.Pick<GridArea, 'w' | 'h'>;
  /** What is shown in place of it where its signal has more series than a chart can tell apart. */
  readonly ofMany?: PanelContent;
  /** The heading it lies under; above all by default. */
  readonly section?: string;
}

/** The ready board of a service before it is filled. */
export interface Starter {
  readonly about: string;
  readonly parts: readonly StarterPart[];
  /** What one chooses by besides the account, from the whole to its parts; region and resource by default. */
  readonly pickers?: readonly { readonly name: string; readonly title: string; readonly label: string }[];
}

interface PickManner {
  readonly statistic?: SignalPick['statistic'];
  readonly where?: readonly LabelCondition[];
  readonly combine?: Combine;
}

/** A pick of a metric under a name. @example row('a', 'queue.depth', { statistic: 'max' }) */
export const row = (
  name: string,
  metric: string,
  { statistic = 'avg', where = [], combine }: PickManner = {}
): SignalPick => ({
  name,
  metric,
  where: [...where],
  statistic,
  ...(combine ? { combine } : {})
});

/** Steps of metrics that come more slowly than every minute, by how their names begin. */
const slow: readonly (readonly [string, string])[] = [
  ['object-store.', 'PT1H'],
  ['pipeline.', 'PT5M'],
  ['objective.', 'PT5M'],
  ['account.cost', 'P1D']
];

/** A signal of one metric. @example metric('queue.sent', { statistic: 'sum' }) */
export const metric = (name: string, manner: PickManner = {}): Signal =>
  signal([row(manner.combine?.by.length === 0 ? 'all' : 'a', name, manner)]);

/** A share from 0 to 1 as people read it. @example inPercent('host_memory_ratio') // 30.8 % where the metric has 0.308 */
export const inPercent = (name: string): Signal => ({ ...metric(name), unit: '%' });

/** Rows in cells of a minute, or as long as the slowest of their metrics needs. */
export const signal = (rows: Signal['rows'], more: Partial<Signal> = {}): Signal => {
  const found = slow.find(([begin]) => rows.some((one) => 'metric' in one && one.metric.startsWith(begin)));
  return { version: 2, rows, step: found?.[1] ?? 'PT1M', ...more };
};

/** Everything added up, or by some labels. @example added('class') // { statistic: 'sum', by: ['class'] } */
export const added = (...by: string[]): Combine => ({ statistic: 'sum', by });

/** The few highest now. */
export const highest = (of: Signal, keep: number): Signal => ({
  ...of,
  limit: { keep, order: 'highest', by: 'last', rest: 'leave out' }
});
export const lowest = (of: Signal, keep: number): Signal => ({
  ...of,
  limit: { keep, order: 'lowest', by: 'last', rest: 'leave out' }
});

/** The ten most frequent of lines that are errors of a service, by what those that are alike say. */
export const topErrors = (service: string): Signal => ({
  version: 2,
  step: 'auto',
  rows: [{ name: 'a', lines: `service = ${service} severity >= error`, where: [], by: ['shape'] }],
  limit: { keep: 10, order: 'highest', by: 'sum', rest: 'leave out' }
});

/** The newest lines that a search finds. */
export const log = (title: string, search: string, size: Size = [12, 4]): StarterPart => ({
  content: { title, picture: 'log', search, rows: 30 },
  size: sized(size)
});

type Size = readonly [w: number, h: number];
const sized = ([w, h]: Size) => ({ w, h });

export const overTime = (
  title: string,
  of: Signal,
  size: Size = [6, 4],
  picture: 'lines' | 'areas' | 'stacked' | 'bars' = 'lines',
  limits?: Bound[]
): StarterPart => ({
  content: { title, picture, signal: of, ...(limits ? { limits } : {}) },
  size: sized(size)
});

export const number = (
  title: string,
  of: Signal,
  size: Size = [4, 2],
  { reduce = 'last', earlier = 'P1D' }: { reduce?: Reduction; earlier?: string } = {}
): StarterPart => ({ content: { title, picture: 'number', signal: of, reduce, earlier }, size: sized(size) });

export const gauge = (
  title: string,
  of: Signal,
  more: {
    scale?: readonly [number, number];
    warning?: number;
    danger?: number;
    worse?: 'above' | 'below';
    size?: Size;
  } = {}
): StarterPart => {
  const { scale = [0, 100], size = [4, 2], worse = 'above', warning, danger } = more;
  return {
    content: {
      title,
      picture: 'gauge',
      signal: of,
      reduce: 'last',
      scale: { from: scale[0], to: scale[1] },
      worse,
      ...(warning === undefined ? {} : { warning }),
      ...(danger === undefined ? {} : { danger })
    },
    size: sized(size)
  };
};

type Show = 'number' | 'shade' | 'bar' | 'course';

/** A snapshot list; columns whose metrics are not collected are left out. */
export const snapshot = (
  title: string,
  columns: readonly (readonly [title: string, of: Signal, show: Show, reduce?: Reduction])[],
  { size = [12, 5], sort = 'highest' }: { size?: Size; sort?: 'highest' | 'lowest' } = {}
): StarterPart => ({
  content: {
    title,
    picture: 'snapshot',
    columns: columns.map(([of, one, show, reduce = 'last']) => ({ title: of, signal: one, show, reduce })),
    sort: { column: 0, direction: sort },
    rows: 20
  },
  size: sized(size)
});

/** A chart where there are few series, which the board's pickers narrow; a list of what they are now where there are many. */
export const fewOrMany = (title: string, of: Signal, show: Show, size: Size = [6, 4]): StarterPart => ({
  ...overTime(title, of, size),
  ofMany: snapshot(title, [['Now', of, show]], { size }).content
});

export const ranks = (title: string, of: Signal, reduce: Reduction = 'last', size: Size = [4, 4]): StarterPart => ({
  content: { title, picture: 'ranks', signal: of, reduce },
  size: sized(size)
});

export const ring = (title: string, of: Signal, reduce: Reduction = 'sum', size: Size = [4, 4]): StarterPart => ({
  content: { title, picture: 'ring', signal: of, reduce },
  size: sized(size)
});

export const heat = (title: string, of: Signal, size: Size = [6, 4]): StarterPart => ({
  content: { title, picture: 'heat', signal: of },
  size: sized(size)
});

/** What was raised at a service. */
export const raised = (service: string | undefined, size: Size = [4, 2]): StarterPart => ({
  content: { title: 'Raised here', picture: 'incidents', open: false, ...(service === undefined ? {} : { service }) },
  size: sized(size)
});

/** What stopped reporting at a service. */
export const silent = (
  service: string | undefined,
  minutes = 15,
  size: Size = [4, 2],
  title = 'Stopped reporting'
): StarterPart => ({
  content: { title, picture: 'silent', minutes, ...(service === undefined ? {} : { service }) },
  size: sized(size)
});

/** Parts under a heading. */
export const under = (section: string, ...parts: readonly StarterPart[]): StarterPart[] =>
  parts.map((part) => ({ ...part, section }));
