import { SpanKind, SpanStatusCode, trace, type Attributes, type Span } from '@opentelemetry/api';
import { slowWork, type SlowKind } from './slow-work';

/** What a process counts of its own work, since it began. */
export const countedWork = [
  'requests',
  'requests.failed',
  'queries',
  'statements',
  'pulls',
  'pulls.failed',
  'pages',
  'pages.failed',
  'pages.late',
  'judgings',
  'messages.sent',
  'messages.failed',
  'samples'
] as const;
export type CountedWork = (typeof countedWork)[number];

/** Work whose time is added up, s. */
export const timedWork = ['requests', 'queries', 'statements', 'pulls', 'judgings'] as const;
export type TimedWork = (typeof timedWork)[number];

const counts = new Map<CountedWork, number>();
const seconds = new Map<TimedWork, number>();

/** Counts work of this process. @example count('samples', 1200) */
export const count = (work: CountedWork, times = 1): void => void counts.set(work, countOf(work) + times);

/** How often work was done in this process. */
export const countOf = (work: CountedWork): number => counts.get(work) ?? 0;

/** How long this process has spent on work, s. */
export const secondsOf = (work: TimedWork): number => seconds.get(work) ?? 0;

/** What is to be known of a piece of work, besides what kind it is. */
export interface Doing {
  /** What its span says of it, by the names that OpenTelemetry gives such things. */
  readonly attributes?: Attributes;
  /** Under what it is remembered among what took long, once it is done. */
  readonly slow?: () => { readonly kind: SlowKind; readonly key: string; readonly about?: unknown };
}

/** What a span is called in a trace, and on which side of a call it stands. */
const spans: Readonly<Record<TimedWork, { readonly name: string; readonly kind: SpanKind }>> = {
  requests: { name: 'request', kind: SpanKind.SERVER },
  queries: { name: 'query', kind: SpanKind.INTERNAL },
  statements: { name: 'statement', kind: SpanKind.CLIENT },
  pulls: { name: 'pull', kind: SpanKind.INTERNAL },
  judgings: { name: 'judge', kind: SpanKind.INTERNAL }
};

/**
 * Does work, counts it, adds up how long it took, also when it fails, and makes it a span of the trace that it belongs to.
 *
 * @example await timed('queries', () => evaluate(query))
 */
export function timed<Result>(
  name: TimedWork,
  work: (span: Span) => Promise<Result>,
  { attributes = {}, slow }: Doing = {}
): Promise<Result> {
  const begun = performance.now();
  const { name: called, kind } = spans[name];
  return trace.getTracer('bussola').startActiveSpan(called, { kind, attributes }, async (span) => {
    try {
      return await work(span);
    } catch (error) {
      span.setStatus({ code: SpanStatusCode.ERROR, message: error instanceof Error ? error.name : 'error' });
      throw error;
    } finally {
      const took = performance.now() - begun;
      count(name);
      seconds.set(name, secondsOf(name) + took / 1000);
      if (slow !== undefined) {
        const { kind: of, key, about } = slow();
        slowWork.note(of, key, took, about);
      }
      span.end();
    }
  });
}
