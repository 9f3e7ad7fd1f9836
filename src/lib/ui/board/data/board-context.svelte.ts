import { getContext, setContext } from 'svelte';
import type { DrawnLimit, Severity, State } from '$lib/core/alarm';
import type { Choices, Panel, Picker, SeenResource } from '$lib/core/board';
import { isPattern } from '$lib/core/pattern';
import { asksFor, picksOf, type MetricWords, type Signal } from '$lib/core/signal';
import type { Mark } from '$lib/core/mark';
import type { Duration, Instant } from '$lib/core/time';
import type { MarkFlag } from '../../chart/picture';
import type { PanelView } from './panel-view.svelte';

/** What a board needs to know of a metric. */
export interface BoardMetric extends MetricWords {
  readonly name: string;
  readonly kind: string;
  readonly shape: string;
  readonly service: string;
  readonly samplingMs: number;
  readonly delayMs: number;
  /** Labels that its series have beyond those that every series has. */
  readonly labels: readonly string[];
}

/** An alarm as boards show it. */
export interface BoardAlarm {
  readonly id: number;
  readonly name: string;
  readonly severity: Severity;
  readonly service: string | null;
  /** The metric of one that is nothing but a metric and a limit. */
  readonly metric: string | null;
  /** Limits that are drawn as lines. */
  readonly limits: readonly DrawnLimit[];
  readonly error: string | null;
  readonly counts: Readonly<Partial<Record<State, number>>>;
}

export interface BoardIncident {
  readonly id: number;
  readonly alarmId: number | null;
  readonly alarm: string;
  readonly subject: string;
  readonly severity: Severity;
  readonly service: string;
  readonly openedAt: Instant;
  readonly closedAt: Instant | null;
}

/** A resource, with its newest sample; null when it never had one. */
export interface SilentResource {
  readonly id: number;
  readonly name: string;
  readonly account: string;
  readonly service: string;
  readonly newest: Instant | null;
  /** When its next sample should have been there; null when it never had one. */
  readonly dueBy: Instant | null;
}

/** What panels without a signal show. */
export interface BoardThings {
  readonly alarms: readonly BoardAlarm[];
  readonly incidents: readonly BoardIncident[];
  readonly services: readonly {
    readonly service: string;
    readonly resources: number;
    readonly worst: Severity | null;
  }[];
  readonly groups: readonly {
    readonly id: number;
    readonly name: string;
    readonly resources: number;
    readonly worst: Severity | null;
  }[];
  /** Only when a panel requests them. */
  readonly reporting: readonly SilentResource[];
  /** Likewise. */
  readonly seen: readonly SeenResource[];
}

/** What a page read, as panels without a signal show it. */
export const thingsOf = ({
  alarms,
  groups,
  reporting,
  seen,
  overview
}: Pick<BoardThings, 'alarms' | 'groups' | 'reporting' | 'seen'> & {
  readonly overview: {
    readonly logbook: { readonly incidents: BoardThings['incidents'] };
    readonly services: BoardThings['services'];
  };
}): BoardThings => ({
  alarms,
  groups,
  reporting,
  seen,
  incidents: overview.logbook.incidents,
  services: overview.services
});

/** What all panels of a board share. */
export interface BoardContext {
  readonly metrics: Readonly<Record<string, BoardMetric>>;
  readonly things: BoardThings;
  readonly pickers: readonly Picker[];
  readonly choices: Choices;
  readonly marks: readonly MarkFlag[];
  /** The same with who put them, newest first. */
  readonly allMarks: readonly Mark[];
  /** By how much earlier every panel is compared; undefined for as each says. */
  readonly earlier: Duration | undefined;
  /** The time zone in which times are shown; null for the reader's own. */
  readonly zone: string | null;
  /** Whether choosing a span on one panel moves all. */
  readonly linked: boolean;
  /** Who looks: people of the workspace, somebody with a link, or nobody in particular at a wall. */
  readonly who: 'people' | 'guest' | 'wall';
  /** Whether the panels are being arranged. */
  readonly editing: boolean;
  /** Shows a resource beside the board. */
  readonly open: (resourceId: number) => void;
  /** A panel with its signals as they are shown now: narrowed by pickers, in the step and the statistic that were chosen for a while. */
  readonly asShown: (panel: Panel, view: PanelView) => Panel;
  /** Chooses values of a picker. */
  readonly choose: (picker: Picker, values: readonly string[]) => void;
  /** An address that keeps the range and the picked values. */
  readonly href: (path: string) => string;
}

const key = Symbol('board');
export const provideBoardContext = (boardContext: BoardContext): BoardContext => setContext(key, boardContext);
export const useBoardContext = (): BoardContext => getContext<BoardContext>(key);

/** The words of a metric, or of the first one that a pattern matches. */
export const metricOf = (metrics: BoardContext['metrics'], pattern: string): BoardMetric | undefined =>
  (Object.hasOwn(metrics, pattern) ? metrics[pattern] : undefined) ??
  Object.values(metrics).find(({ name }) => asksFor(pattern, name));

/** What is open on something that a board names: a resource, or a series by its labels. */
export const openOn = ({ incidents }: Pick<BoardThings, 'incidents'>, name: string): BoardThings['incidents'] =>
  incidents.filter(
    ({ closedAt, subject }) => closedAt === null && (subject === name || subject.startsWith(`${name} `))
  );

/** How slowly the samples of a signal come and how late they arrive, milliseconds. */
export function arrivalOf(metrics: BoardContext['metrics'], signal: Signal): { samplingMs: number; delayMs: number } {
  const found = picksOf(signal).flatMap(({ metric }) => metricOf(metrics, metric) ?? []);
  return {
    samplingMs: Math.max(60_000, ...found.map(({ samplingMs }) => samplingMs)),
    delayMs: Math.max(0, ...found.map(({ delayMs }) => delayMs))
  };
}

/** Labels of a metric, or of all that a pattern matches. */
export const labelsOf = (metrics: BoardContext['metrics'], pattern: string): readonly string[] =>
  isPattern(pattern)
    ? Object.values(metrics)
        .filter(({ name }) => asksFor(pattern, name))
        .flatMap(({ labels }) => labels)
    : (metricOf(metrics, pattern)?.labels ?? []);
