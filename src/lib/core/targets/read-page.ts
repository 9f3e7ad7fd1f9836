import { meaningOf, mostFaultyLines, readExposition } from '../openmetrics';
import { Refusal } from '../problem/problem';
import { refusals } from '../receive';
import { readingAt, SeriesGatherer, type Received, type ReceivedIdentity } from '../receive/received';
import { applyingRules, type PageRule } from './rules';

/** The page that is read. */
export interface ReadTarget {
  readonly name: string;
  readonly labels: Readonly<Record<string, string>>;
}

/** What a page gave. */
export interface ReadPage extends Received {
  /** Lines with a value that the page has, before rules. */
  readonly samples: number;
  /** Lines that rules left out. */
  readonly leftOut: number;
}

/**
 * Reads an OpenMetrics page as samples of its target, with rules applied. Samples without a time are of `now`. Labels of the page that begin with two underscores are its own affairs and left out.
 *
 * @throws Refusal when too many lines cannot be read, or there are too many series
 * @example readPage('up 1\n# EOF\n', { name: 'quote', labels: {} }, [], now).series[0].resource.name // 'quote'
 */
export function readPage(
  text: string,
  { name, labels: tags }: ReadTarget,
  rules: readonly PageRule[],
  now: number
): ReadPage {
  const gather = new SeriesGatherer(now);
  const { samples, faults, faulty, complete } = readExposition(text);
  if (faulty >= mostFaultyLines)
    throw new Refusal(
      'unreadable',
      `The page is no OpenMetrics text: line ${faults[0]?.line ?? 1} ${faults[0]?.reason ?? 'cannot be read'}.`,
      'Check the address in a browser: it should show lines such as requests_total 42.'
    );
  for (const { line, reason, text: at } of faults)
    gather.refuse(1, refusals.unreadable, `Line ${line} ${reason}: ${at}`);
  if (!complete) gather.note('The end (# EOF) is missing, so a part may be, too.');
  const applied = applyingRules(rules);
  const resource = { id: name, name, tags };
  let leftOut = 0;
  // Lines of one series stand together and share their labels: what rules make of them is remembered.
  let last: { labels: object; name: string; identity: ReceivedIdentity | null } | null = null;
  for (const sample of samples) {
    if (last === null || last.labels !== sample.labels || last.name !== sample.name)
      last = { labels: sample.labels, name: sample.name, identity: identityOf(sample) };
    if (last.identity === null) leftOut++;
    else gather.add(last.identity, readingAt(sample.at ?? now, sample.value), `Line ${sample.line}`);
  }
  return { ...gather.result(), samples: samples.length, leftOut };

  function identityOf(sample: (typeof samples)[number]): ReceivedIdentity | null {
    const meaning = meaningOf(sample);
    if (meaning === null) return null;
    const ruled = applied({ metric: meaning.metric, labels: sample.labels });
    if (ruled === null) return null;
    return {
      resource,
      metric: {
        name: ruled.metric,
        description: sample.family.help.slice(0, 1000),
        unit: meaning.unit,
        kind: meaning.kind
      },
      labels: Object.fromEntries(Object.entries(ruled.labels).filter(([label]) => !label.startsWith('__'))),
      weight: 1
    };
  }
}
