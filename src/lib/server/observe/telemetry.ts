import {
  context,
  diag,
  DiagLogLevel,
  SpanKind,
  trace,
  type Attributes,
  type Context,
  type DiagLogger,
  type Link
} from '@opentelemetry/api';
import { AsyncLocalStorageContextManager } from '@opentelemetry/context-async-hooks';
import { OTLPMetricExporter } from '@opentelemetry/exporter-metrics-otlp-http';
import { OTLPTraceExporter } from '@opentelemetry/exporter-trace-otlp-http';
import { resourceFromAttributes } from '@opentelemetry/resources';
import { MeterProvider, PeriodicExportingMetricReader } from '@opentelemetry/sdk-metrics';
import {
  BasicTracerProvider,
  BatchSpanProcessor,
  ParentBasedSampler,
  SamplingDecision,
  TraceIdRatioBasedSampler,
  type Sampler,
  type SamplingResult
} from '@opentelemetry/sdk-trace-base';
import { setTimeout } from 'node:timers/promises';
import type { Logger } from 'pino';
import type { Clock } from '$lib/core/time';
import type { Telemetry } from '../base/config';
import { version } from '../base/version';
import { healthMetrics } from '../intake/own/health-metrics';
import { readHealth, type Observed } from './read-health';

/** How often metrics are sent, and what one sending may take, ms. */
const everyMs = 60_000;
const longestMs = 10_000;
/** What sending the rest may take when the process ends, ms. */
const longestStopMs = 2000;
/** Spans that wait to be sent; of more, the newest are lost. */
const mostWaiting = 2048;

interface TelemetryParts extends Observed {
  readonly clock: Clock;
  readonly log: Logger;
  /** Where it is sent, and which share of traces. */
  readonly to: Telemetry;
  /** What this process is called among several. */
  readonly instance: string;
  /** How often metrics are sent, ms. */
  readonly metricsEveryMs?: number;
}

/**
 * Sends what this process measures of itself, and traces of what it does, to a receiver of OpenTelemetry (OTLP over HTTP, in JSON). One that is away costs nothing but a warning: what could not be sent is lost.
 *
 * @returns what sends the rest and stops it
 * @example const telemetry = startTelemetry({ ...parts, to: { url: 'http://127.0.0.1:4318', headers: {}, share: 0.1 }, instance: 'bussola' })
 */
export function startTelemetry(parts: TelemetryParts): { stop(): Promise<void> } {
  const { clock, log, to, instance, metricsEveryMs = everyMs } = parts;
  const resource = resourceFromAttributes({
    ...{ 'service.name': 'bussola', 'service.version': version, 'service.instance.id': instance }
  });
  diag.setLogger(warnings(log), DiagLogLevel.WARN);
  const exporting = { headers: { ...to.headers }, timeoutMillis: longestMs };
  const spans = new BatchSpanProcessor(new OTLPTraceExporter({ ...exporting, url: `${to.url}/v1/traces` }), {
    ...{ maxQueueSize: mostWaiting, exportTimeoutMillis: longestMs }
  });
  const contexts = new AsyncLocalStorageContextManager();
  context.setGlobalContextManager(contexts.enable());
  const tracing = new BasicTracerProvider({
    ...{ resource, spanProcessors: [spans] },
    sampler: new ParentBasedSampler({ root: new WorkSampler(to.share) })
  });
  trace.setGlobalTracerProvider(tracing);
  const metrics = new MeterProvider({
    resource,
    readers: [
      new PeriodicExportingMetricReader({
        exporter: new OTLPMetricExporter({ ...exporting, url: `${to.url}/v1/metrics` }),
        ...{ exportIntervalMillis: metricsEveryMs, exportTimeoutMillis: Math.min(longestMs, metricsEveryMs) }
      })
    ]
  });
  const meter = metrics.getMeter('bussola', version);
  const instruments = new Map(
    healthMetrics.map(({ name, unit, description, kind }) => {
      const options = { unit, description };
      return [
        name,
        kind === 'cumulative'
          ? meter.createObservableCounter(name, options)
          : meter.createObservableGauge(name, options)
      ];
    })
  );
  meter.addBatchObservableCallback(
    async (result) => {
      const read = await readHealth(parts, clock.now());
      for (const [name, instrument] of instruments) {
        const value = read.get(name);
        if (value !== undefined) result.observe(instrument, value);
      }
    },
    [...instruments.values()]
  );
  return {
    stop: async () => {
      // A receiver that is away, or slow, holds nobody up.
      const sent = Promise.allSettled([tracing.shutdown(), metrics.shutdown()]);
      await Promise.race([sent, setTimeout(longestStopMs, undefined, { ref: false })]);
      trace.disable();
      context.disable();
      diag.disable();
    }
  };
}

/** Traces of a share of what is worked on. A statement of the database that belongs to nothing else is of no interest: they are run all the time to look whether something is to be done. */
class WorkSampler implements Sampler {
  readonly #share: Sampler;

  constructor(share: number) {
    this.#share = new TraceIdRatioBasedSampler(share);
  }

  shouldSample(
    of: Context,
    traceId: string,
    name: string,
    kind: SpanKind,
    attributes: Attributes,
    links: Link[]
  ): SamplingResult {
    if (name === 'statement') return { decision: SamplingDecision.NOT_RECORD };
    return this.#share.shouldSample(of, traceId, name, kind, attributes, links);
  }

  toString(): string {
    return `work, ${this.#share.toString()}`;
  }
}

/** What goes wrong with sending is a line of the log, each kind once an hour at most. */
function warnings(log: Logger): DiagLogger {
  const said = new Map<string, number>();
  const warn = (message: string, ...more: unknown[]): void => {
    const now = performance.now();
    const kind = message.slice(0, 60);
    if (now - (said.get(kind) ?? -Infinity) < 3_600_000) return;
    said.set(kind, now);
    log.warn({ telemetry: [message, ...more].map(String).join(' ').slice(0, 500) }, 'telemetry could not be sent');
  };
  const quiet = (): void => undefined;
  return { error: warn, warn, info: quiet, debug: quiet, verbose: quiet };
}
