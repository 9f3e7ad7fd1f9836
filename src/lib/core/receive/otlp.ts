import { z } from 'zod';
import { readingAt, SeriesGatherer, type Received, type ReceivedSeries } from './received';

/** 64-bit integers are texts in JSON, and numbers where they fit. */
const int64 = z.union([z.string().regex(/^-?\d+$/), z.number().int()]).transform(Number);
const double = z.union([z.number(), z.enum(['NaN', 'Infinity', '-Infinity']).transform(Number)]);

interface AnyValue {
  stringValue?: string | undefined;
  boolValue?: boolean | undefined;
  intValue?: number | undefined;
  doubleValue?: number | undefined;
}
const anyValue: z.ZodType<AnyValue> = z.looseObject({
  stringValue: z.string().optional(),
  boolValue: z.boolean().optional(),
  intValue: int64.optional(),
  doubleValue: double.optional()
});
const attributes = z
  .array(z.object({ key: z.string().max(300), value: anyValue.optional() }))
  .max(200)
  .default([]);

const base = { attributes, timeUnixNano: int64.default(0), flags: z.number().int().default(0) };
const numberPoint = z.looseObject({ ...base, asDouble: double.optional(), asInt: int64.optional() });
const histogramPoint = z.looseObject({
  ...base,
  count: int64.default(0),
  sum: double.optional(),
  min: double.optional(),
  max: double.optional(),
  bucketCounts: z.array(int64).max(1000).default([]),
  explicitBounds: z.array(double).max(1000).default([])
});
const summaryPoint = z.looseObject({
  ...base,
  count: int64.default(0),
  sum: double.default(0),
  quantileValues: z
    .array(z.object({ quantile: double.default(0), value: double.default(0) }))
    .max(200)
    .default([])
});

const unspecified = 0;
const deltaTemporality = 1;
const metricSchema = z.looseObject({
  name: z.string().min(1).max(200),
  description: z.string().max(1000).default(''),
  unit: z.string().max(63).default(''),
  gauge: z.object({ dataPoints: z.array(numberPoint).default([]) }).optional(),
  sum: z
    .object({
      dataPoints: z.array(numberPoint).default([]),
      aggregationTemporality: z.number().int().default(unspecified),
      isMonotonic: z.boolean().default(false)
    })
    .optional(),
  histogram: z
    .object({
      dataPoints: z.array(histogramPoint).default([]),
      aggregationTemporality: z.number().int().default(unspecified)
    })
    .optional(),
  exponentialHistogram: z.object({ dataPoints: z.array(z.unknown()).default([]) }).optional(),
  summary: z.object({ dataPoints: z.array(summaryPoint).default([]) }).optional()
});

/** Body of an OTLP metrics request (opentelemetry.proto.collector.metrics.v1), as JSON or read from protobuf. */
export const otlpSchema = z.looseObject({
  resourceMetrics: z
    .array(
      z.looseObject({
        resource: z.looseObject({ attributes }).optional(),
        scopeMetrics: z.array(z.looseObject({ metrics: z.array(metricSchema).default([]) })).default([])
      })
    )
    .default([])
});
export type OtlpMetrics = z.infer<typeof otlpSchema>;

/** A flag of a point that says: there is no value. */
const noRecordedValue = 1;
const nanosecondsInMillisecond = 1_000_000;

/**
 * The series of an OTLP metrics request. A sum is cumulative or a delta as it says, one that may fall is a gauge; a histogram becomes its count, sum and buckets
 * (label `le`) and, where it has them, min and max; a summary its quantiles, count and sum. Exponential histograms are rejected, with the word why.
 *
 * @example readOtlp(otlpSchema.parse(body)).series[0].metric.kind // 'cumulative'
 */
export function readOtlp({ resourceMetrics }: OtlpMetrics): Received {
  const gather = new SeriesGatherer();
  for (const { resource, scopeMetrics } of resourceMetrics) {
    const tags = labelsOf(resource?.attributes ?? []);
    const name = tags['service.name'] ?? tags['host.name'] ?? 'unnamed';
    const instance = tags['service.instance.id'] ?? tags['host.name'] ?? '';
    const id = instance === '' || instance === name ? name : `${name}/${instance}`;
    const who = { id, name: id, tags };
    for (const { metrics } of scopeMetrics) for (const metric of metrics) readMetric(metric, who, gather);
  }
  return gather.result();
}

type Metric = z.infer<typeof metricSchema>;

function readMetric(metric: Metric, resource: ReceivedSeries['resource'], gather: SeriesGatherer): void {
  const unit = metric.unit === '' ? '1' : metric.unit;
  const { name, description } = metric;
  const put = (
    suffix: string,
    kind: ReceivedSeries['metric']['kind'],
    point: { attributes: z.infer<typeof attributes>; timeUnixNano: number; flags: number },
    value: number | undefined,
    of: { unit?: string; labels?: Record<string, string> } = {}
  ): void => {
    if (value === undefined || (point.flags & noRecordedValue) !== 0) return;
    const at = Math.floor(point.timeUnixNano / nanosecondsInMillisecond);
    if (!Number.isFinite(value)) return gather.reject(1, `${name}: ${value} is no finite number.`);
    if (at <= 0 || at > 253_402_300_799_999)
      return gather.reject(1, `${name}: ${point.timeUnixNano} ns is no time that can be kept.`);
    gather.add(
      {
        resource,
        metric: { name: name + suffix, description, unit: of.unit ?? unit, kind },
        labels: { ...labelsOf(point.attributes), ...of.labels }
      },
      readingAt(at, value)
    );
  };
  const kindOf = (temporality: number) => (temporality === deltaTemporality ? 'delta' : 'cumulative');
  for (const point of metric.gauge?.dataPoints ?? []) put('', 'gauge', point, point.asDouble ?? point.asInt);
  for (const point of metric.sum?.dataPoints ?? []) {
    const { aggregationTemporality, isMonotonic } = metric.sum as NonNullable<Metric['sum']>;
    const kind = kindOf(aggregationTemporality);
    put('', kind === 'delta' || isMonotonic ? kind : 'gauge', point, point.asDouble ?? point.asInt);
  }
  for (const point of metric.histogram?.dataPoints ?? []) {
    const kind = kindOf(metric.histogram?.aggregationTemporality ?? unspecified);
    put('.count', kind, point, point.count, { unit: '1' });
    put('.sum', kind, point, point.sum);
    put('.min', 'gauge', point, point.min);
    put('.max', 'gauge', point, point.max);
    let below = 0;
    for (const [i, count] of point.bucketCounts.entries())
      put('.bucket', kind, point, (below += count), {
        unit: '1',
        labels: { le: String(point.explicitBounds[i] ?? '+Inf') }
      });
  }
  for (const point of metric.summary?.dataPoints ?? []) {
    put('.count', 'cumulative', point, point.count, { unit: '1' });
    put('.sum', 'cumulative', point, point.sum);
    for (const { quantile, value } of point.quantileValues)
      put('', 'gauge', point, value, { labels: { quantile: String(quantile) } });
  }
  const exponential = metric.exponentialHistogram?.dataPoints.length ?? 0;
  if (exponential > 0)
    gather.reject(exponential, `${name}: exponential histograms are not kept; send explicit buckets.`);
}

function labelsOf(pairs: z.infer<typeof attributes>): Record<string, string> {
  const labels: Record<string, string> = {};
  for (const { key, value } of pairs) {
    const found = value?.stringValue ?? value?.boolValue ?? value?.intValue ?? value?.doubleValue;
    if (found !== undefined) labels[key] = String(found).slice(0, 1000);
  }
  return labels;
}
