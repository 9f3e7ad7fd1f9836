import { meaningOf, type ExposedSample, type Exposition } from '$lib/core/openmetrics';
import {
  before,
  hour,
  minute,
  range,
  textFromInstant,
  times,
  type Clock,
  type Instant,
  type Range
} from '$lib/core/time';
import { columnsOf, isSound, reading, type RawPoint } from '../port/points';
import type { Exemplar, FetchedPage, ProviderAccess, WantedResource } from '../port/provider';
import { scrape } from './call';
import { identityOf } from './identity';

/** A page says what is true now. Missed longer than this, the minutes that the cluster kept are requested. */
const keptBehind = times(3, minute);
const mostKept = times(12, hour);

/** Samples of a half-open range: from the pages that clusters kept, and the present one when the range reaches to now. */
export async function* fetchPages(
  clock: Clock,
  access: ProviderAccess,
  wanted: readonly WantedResource[],
  span: Range
): AsyncGenerator<FetchedPage> {
  const wantedMetrics = new Map(wanted.map(({ providerId, metrics }) => [providerId, new Set(metrics)]));
  const clusters = [...new Set(wanted.map(({ providerId }) => providerId.split('/')[0] as string))];
  const now = clock.now();
  const isLive = now - span.to < keptBehind;
  const kept = isLive ? (span.to - span.from > keptBehind ? range(span.from, before(span.to, minute)) : null) : span;
  for (const id of clusters) {
    for (let to = kept?.to; kept && to && to > kept.from;) {
      const from = Math.max(kept.from, to - mostKept) as Instant;
      const query = new URLSearchParams({ since: textFromInstant(from), until: textFromInstant(to) });
      yield pageOf(await scrape(clock, access, { id }, `?${query.toString()}`), id, wantedMetrics, null);
      to = from;
    }
    if (isLive) {
      const at = clock.now();
      yield pageOf(await scrape(clock, access, { id }), id, wantedMetrics, at);
    }
  }
}

/** A series while the lines of its page are read. */
interface Collected {
  readonly resource: string;
  readonly metric: string;
  readonly labels: Record<string, string>;
  readonly points: RawPoint[];
  readonly exemplars: Exemplar[];
}

function pageOf(
  { samples, faults }: Exposition,
  cluster: string,
  wanted: ReadonlyMap<string, ReadonlySet<string>>,
  readAt: Instant | null
): FetchedPage {
  const found = new Map<string, Collected>();
  let refused = faults.length;
  let refusedExample = faults[0] ? `line ${faults[0].line}, ${faults[0].reason}: ${faults[0].text}` : null;
  let last: {
    readonly labels: ExposedSample['labels'];
    readonly name: string;
    readonly series: Collected | null;
  } | null = null;
  for (const sample of samples) {
    // Lines of one series stand together, and share their labels.
    if (last === null || last.labels !== sample.labels || last.name !== sample.name)
      last = { labels: sample.labels, name: sample.name, series: seriesOf(sample) };
    const { series } = last;
    if (series === null) continue;
    const point = reading(sample.at ?? readAt ?? 0, sample.value);
    if (!isSound(point)) {
      refused++;
      refusedExample ??= `line ${sample.line}: ${sample.name} ${sample.value}`;
      continue;
    }
    series.points.push(point);
    const { exemplar } = sample;
    if (exemplar && Number.isFinite(exemplar.value))
      series.exemplars.push({ ...exemplar, at: (exemplar.at ?? point[0]) as Instant });
  }
  return {
    series: [...found.values()]
      .filter(({ points }) => points.length > 0)
      .map(({ points, ...series }) => ({ ...series, points: columnsOf(points) })),
    refused,
    refusedExample
  };

  /** Where a line's value belongs; null when it is not wanted. */
  function seriesOf({ labels, name, family }: ExposedSample): Collected | null {
    const meaning = meaningOf({ name, family });
    if (meaning === null) return null;
    const { providerId, rest } = identityOf(cluster, labels);
    if (!wanted.get(providerId)?.has(meaning.metric)) return null;
    const key = `${meaning.metric}\n${JSON.stringify(labels)}`;
    let series = found.get(key);
    if (!series)
      found.set(
        key,
        (series = { resource: providerId, metric: meaning.metric, labels: rest, points: [], exemplars: [] })
      );
    return series;
  }
}
