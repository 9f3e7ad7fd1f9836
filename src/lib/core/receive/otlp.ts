import { Refusal } from '../problem/problem';
import { mostLabels, readingAt, refusals, SeriesGatherer, type Received, type ReceivedIdentity } from './received';
import {
  doubleFrom,
  fieldsOf,
  given,
  integerFrom,
  listFrom,
  millisecondsOf,
  textFrom,
  type Fields
} from './otlp-values';
import { labelsFrom, resourceOf } from './otlp-labels';

type Kind = ReceivedIdentity['metric']['kind'];

/** A flag of a point that says: there is no value. */
const noRecordedValue = 1n;

/** A metric of a request with where it is from: what all its points share. */
interface Described {
  readonly name: string;
  readonly description: string;
  readonly unit: string;
  readonly resource: ReceivedIdentity['resource'];
  /** Labels of its scope, which all its series have. */
  readonly scope: Readonly<Record<string, string>>;
}

/**
 * The series of an OTLP metrics request (opentelemetry.proto.collector.metrics.v1), given as JSON has it or as read from protobuf. A sum is cumulative or a delta as
 * it says, one that may fall is a gauge; a histogram becomes its count, sum and buckets (label `le`) and, where it has them, min and max; a summary its quantiles,
 * count and sum. Exponential histograms are refused. A point that cannot be read is refused alone.
 *
 * @param body anything; what is not of the expected form is refused where it stands
 * @throws ReceiveFault when the body is no request, or too much of it cannot be read
 * @example readOtlp(body, now).series[0].metric.kind // 'cumulative'
 */
export function readOtlp(body: unknown, now: number): Received {
  const gather = new SeriesGatherer(now);
  const request = fieldsOf(body);
  const parts = request === null ? null : listFrom(request.get('resourceMetrics'));
  if (parts === null)
    throw new Refusal(
      'unreadable',
      'The request cannot be read: resourceMetrics is no list.',
      'Send an OTLP metrics request as its specification defines it.'
    );
  for (const part of parts) {
    const inResource = fieldsOf(part);
    const scopes = listFrom(inResource?.get('scopeMetrics'));
    if (inResource === null || scopes === null) {
      gather.refuse(1, refusals.unreadable, 'A part of resourceMetrics cannot be read.');
      continue;
    }
    const resource = resourceOf(fieldsOf(inResource.get('resource'))?.get('attributes'));
    for (const inScope of scopes.map(fieldsOf)) {
      const metrics = listFrom(inScope?.get('metrics'));
      if (inScope === null || metrics === null) {
        gather.refuse(1, refusals.unreadable, 'A part of scopeMetrics cannot be read.');
        continue;
      }
      const scope = scopeLabels(fieldsOf(inScope.get('scope')));
      for (const metric of metrics) readMetric(fieldsOf(metric), resource, scope, gather);
    }
  }
  return gather.result();
}

/** Scopes are told apart by their name, version and attributes. */
function scopeLabels(scope: Fields | null): Record<string, string> {
  const name = textFrom(scope?.get('name')) ?? '';
  const version = textFrom(scope?.get('version')) ?? '';
  const own = labelsFrom(scope?.get('attributes')) ?? {};
  return Object.fromEntries([
    ...(name === '' ? [] : [['scope', name] as const]),
    ...(version === '' ? [] : [['scope.version', version] as const]),
    ...Object.entries(own).map(([key, value]) => [`scope.${key}`, value] as const)
  ]);
}

const pointLists = ['gauge', 'sum', 'histogram', 'exponentialHistogram', 'summary'] as const;

function readMetric(
  metric: Fields | null,
  resource: Described['resource'],
  scope: Described['scope'],
  gather: SeriesGatherer
): void {
  const name = textFrom(metric?.get('name')) ?? '';
  const of: Described = {
    name,
    description: (textFrom(metric?.get('description')) ?? '').slice(0, 1000),
    unit: textFrom(metric?.get('unit')) || '1',
    resource,
    scope
  };
  const form = pointLists.find((one) => fieldsOf(metric?.get(one)) !== null);
  if (metric === null || form === undefined) {
    gather.refuse(1, refusals.unreadable, `${name || 'A metric'} has no points that can be read.`);
    return;
  }
  const data = fieldsOf(metric.get(form)) as Fields;
  const points = listFrom(data.get('dataPoints'));
  if (points === null) return gather.refuse(1, refusals.unreadable, `${name}: dataPoints is no list.`);
  if (form === 'exponentialHistogram') {
    if (points.length > 0)
      gather.refuse(
        points.length,
        refusals.unsupported,
        `${name}: exponential histograms are not stored; send explicit buckets.`
      );
    return;
  }
  if (of.unit.length > 63)
    return gather.refuse(points.length, refusals.unreadable, `${name}: its unit has more than 63 characters.`);
  const temporality = temporalityOf(data.get('aggregationTemporality'));
  const isMonotonic = data.get('isMonotonic') === true;
  for (const [index, point] of points.entries())
    readPoint(
      { of, form, temporality, isMonotonic },
      fieldsOf(point),
      `${name || 'a metric'}, point ${index + 1}`,
      gather
    );
}

const temporalityOf = (value: unknown): 'delta' | 'cumulative' =>
  value === 1 || value === '1' || value === 'AGGREGATION_TEMPORALITY_DELTA' ? 'delta' : 'cumulative';

/** One number that a point comes apart into. */
interface Part {
  readonly suffix: string;
  readonly kind: Kind;
  readonly value: number;
  readonly unit: string;
  readonly labels: Readonly<Record<string, string>>;
}

interface Form {
  readonly of: Described;
  readonly form: Exclude<(typeof pointLists)[number], 'exponentialHistogram'>;
  readonly temporality: 'delta' | 'cumulative';
  readonly isMonotonic: boolean;
}

function readPoint(form: Form, point: Fields | null, where: string, gather: SeriesGatherer): void {
  const refuse = (why: string): void => gather.refuse(1, refusals.unreadable, `${where}: ${why}.`);
  if (point === null) return refuse('it is no object');
  const flags = integerFrom(point.get('flags') ?? 0);
  const time = integerFrom(point.get('timeUnixNano') ?? 0);
  const started = integerFrom(point.get('startTimeUnixNano') ?? 0);
  if (flags === null || time === null || started === null) return refuse('a time or its flags are no whole number');
  if ((flags & noRecordedValue) !== 0n) return;
  const own = labelsFrom(point.get('attributes'));
  if (own === null) return refuse(`its attributes cannot be read, or are more than ${mostLabels}`);
  const parts = form.form === 'gauge' || form.form === 'sum' ? numberParts(form, point) : groupParts(form, point);
  if (typeof parts === 'string') return refuse(parts);
  const at = millisecondsOf(time);
  const start = started > 0n && started < time ? millisecondsOf(started) : null;
  // A point is stored whole or not at all.
  for (const { value } of parts) {
    const refused = gather.refusalOf(readingAt(at, value));
    if (refused !== null) return gather.refuse(1, refused[0], `${where}: ${refused[1]}.`);
  }
  const { of } = form;
  for (const [index, part] of parts.entries())
    gather.add(
      {
        resource: of.resource,
        metric: {
          name: of.name === '' ? '' : of.name + part.suffix,
          description: of.description,
          unit: part.unit,
          kind: part.kind
        },
        labels: { ...of.scope, ...own, ...part.labels },
        weight: index === 0 ? 1 : 0
      },
      readingAt(at, part.value),
      where,
      part.kind === 'gauge' ? null : start
    );
}

function numberParts({ of, form, temporality, isMonotonic }: Form, point: Fields): Part[] | string {
  const [double, integer] = [given(point, 'asDouble'), given(point, 'asInt')];
  const value = double !== null ? doubleFrom(double) : numberOf(integerFrom(integer));
  if (value === null) return 'it has no value that can be read';
  const kind: Kind = form === 'gauge' ? 'gauge' : temporality === 'delta' || isMonotonic ? temporality : 'gauge';
  return [{ suffix: '', kind, value, unit: of.unit, labels: {} }];
}

function groupParts(form: Form, point: Fields): Part[] | string {
  const { of, temporality } = form;
  const kind = form.form === 'summary' ? 'cumulative' : temporality;
  const count = integerFrom(point.get('count') ?? 0);
  const sum = doubleFrom(given(point, 'sum'));
  if (count === null || (given(point, 'sum') !== null && sum === null)) return 'its count or sum cannot be read';
  const parts: Part[] = [{ suffix: '.count', kind, value: Number(count), unit: '1', labels: {} }];
  if (sum !== null) parts.push({ suffix: '.sum', kind, value: sum, unit: of.unit, labels: {} });
  const more = form.form === 'summary' ? quantileParts(of, point) : bucketParts(form, point);
  return typeof more === 'string' ? more : [...parts, ...more];
}

/** The most buckets or quantiles of one point. */
const mostInPoint = 1000;

function bucketParts({ of, temporality: kind }: Form, point: Fields): Part[] | string {
  const parts: Part[] = [];
  for (const end of ['min', 'max'] as const) {
    if (given(point, end) === null) continue;
    const value = doubleFrom(given(point, end));
    if (value === null) return `its ${end} cannot be read`;
    parts.push({ suffix: `.${end}`, kind: 'gauge', value, unit: of.unit, labels: {} });
  }
  const counts = listFrom(point.get('bucketCounts'))?.map(integerFrom);
  const bounds = listFrom(point.get('explicitBounds'))?.map(doubleFrom);
  if (!counts || !bounds || counts.length > mostInPoint || counts.includes(null) || bounds.includes(null))
    return 'its buckets cannot be read';
  if (counts.length > 0 && counts.length !== bounds.length + 1) return 'it has not one bucket more than bounds';
  if (bounds.some((bound, index) => index > 0 && (bound as number) <= (bounds[index - 1] as number)))
    return 'the bounds of its buckets do not rise';
  let below = 0;
  for (const [index, count] of counts.entries())
    parts.push({
      suffix: '.bucket',
      kind,
      value: (below += Number(count)),
      unit: '1',
      labels: { le: index < bounds.length ? String(bounds[index]) : '+Inf' }
    });
  return parts;
}

function quantileParts(of: Described, point: Fields): Part[] | string {
  const quantiles = listFrom(point.get('quantileValues'))?.map(fieldsOf);
  if (!quantiles || quantiles.length > mostInPoint) return 'its quantiles cannot be read';
  const parts: Part[] = [];
  for (const one of quantiles) {
    const [quantile, value] = [doubleFrom(one?.get('quantile') ?? 0), doubleFrom(one?.get('value') ?? 0)];
    if (quantile === null || value === null) return 'its quantiles cannot be read';
    parts.push({ suffix: '', kind: 'gauge', value, unit: of.unit, labels: { quantile: String(quantile) } });
  }
  return parts;
}

const numberOf = (value: bigint | null): number | null => (value === null ? null : Number(value));
