import {
  familyTypes,
  type FamilyType,
  type MetricFamily,
  type ExposedExemplar,
  type ExposedSample
} from './exposition';
import { OrderChecker } from './order';

/** A line that cannot be read, and why. */
export interface LineFault {
  readonly line: number;
  readonly text: string;
  readonly reason: string;
}

export interface Exposition {
  readonly families: ReadonlyMap<string, MetricFamily>;
  readonly samples: readonly ExposedSample[];
  /** The first hundred. */
  readonly faults: readonly LineFault[];
  /** How many lines are at fault. Reading stops at {@link mostFaultyLines}. */
  readonly faulty: number;
  /** Whether `# EOF` ended it: without, a part of it may be missing. */
  readonly complete: boolean;
}

/** Suffixes a sample's name may have behind its family's name, by type. */
const suffixes: Readonly<Record<FamilyType, readonly string[]>> = {
  gauge: [''],
  counter: ['_total', '_created'],
  stateset: [''],
  info: ['_info'],
  histogram: ['_bucket', '_count', '_sum', '_created'],
  gaugehistogram: ['_bucket', '_gcount', '_gsum'],
  summary: ['', '_count', '_sum', '_created'],
  unknown: ['']
};

/** The most faults that are reported one by one; more of the same add nothing. */
const mostFaults = 100;

/** With so many lines at fault a text is something else than an exposition: the rest of it is not read. */
export const mostFaultyLines = 1000;

/** The longest line that is read, in characters. */
export const longestLine = 65_536;

/**
 * Reads an exposition in OpenMetrics text 1.0. Samples of one series that stand together share their labels. A line that cannot be read is left out and
 * reported with its number and the reason; the others are read. What the specification demands of lines together is checked as well ({@link OrderChecker}).
 * Values may be NaN and infinite here; whoever stores them decides.
 *
 * @example readExposition('# TYPE up gauge\nup{host="a"} 1\n# EOF\n').samples[0].value // 1
 */
export function readExposition(text: string): Exposition {
  const families = new Map<string, MetricFamily>();
  const order = new OrderChecker();
  const samples: ExposedSample[] = [];
  const faults: LineFault[] = [];
  let faulty = 0;
  let complete = false;
  let number = 0;
  let head: SampleHead | string = '';
  for (let start = 0; start < text.length && faulty < mostFaultyLines;) {
    const end = text.indexOf('\n', start);
    const line = text.slice(start, end === -1 ? text.length : end);
    start = end === -1 ? text.length : end + 1;
    number++;
    if (line === '' || line === '\r') continue;
    const reason = readLine(line);
    if (reason === null) continue;
    if (faults.length < mostFaults) faults.push({ line: number, text: line.slice(0, 120), reason });
    faulty++;
    if (complete) break;
  }
  return { families, samples, faults, faulty, complete };

  /** @returns why the line is at fault; null when it is not */
  function readLine(line: string): string | null {
    if (complete) return 'stands behind # EOF';
    if (line.length > longestLine) return `has more than ${longestLine} characters`;
    if (line.startsWith('# EOF')) {
      complete = line === '# EOF' || line === '# EOF\r';
      return complete ? null : 'starts like # EOF, but has more text';
    }
    if (line.startsWith('#')) {
      head = '';
      return describe(line, families, order);
    }
    // Lines of one series stand together: what the last one began with need not be read again.
    if (typeof head === 'string' || line[head.text.length] !== ' ' || !line.startsWith(head.text))
      head = readHead(line, families);
    const sample = typeof head === 'string' ? head : readSample(line, number, head);
    if (typeof sample === 'string') return sample;
    const misplaced = order.take(sample);
    if (misplaced !== null) return misplaced;
    samples.push(sample);
    return null;
  }
}

/** `# TYPE`, `# UNIT` and `# HELP`; other comments are passed over. @returns why the line is at fault; null when it is not */
function describe(line: string, families: Map<string, MetricFamily>, order: OrderChecker): string | null {
  const [, word, name, rest = ''] = /^# (TYPE|UNIT|HELP) (\S+) ?(.*?)\r?$/.exec(line) ?? [];
  if (word === undefined || name === undefined) return null;
  if (word === 'TYPE' && !(familyTypes as readonly string[]).includes(rest))
    return `"${rest}" is no type of metric; it is one of ${familyTypes.join(', ')}`;
  const family = familyNamed(families, name);
  const misplaced = order.describe(family, word as 'TYPE' | 'UNIT' | 'HELP');
  if (misplaced !== null) return misplaced;
  if (word === 'HELP') family.help = unescaped(rest);
  else if (word === 'UNIT') family.unit = rest;
  else family.type = rest as FamilyType;
  return null;
}

function familyNamed(families: Map<string, MetricFamily>, name: string): MetricFamily {
  let family = families.get(name);
  if (!family) families.set(name, (family = { name, type: 'unknown', unit: '', help: '' }));
  return family;
}

/** What a line begins with: name and labels, as text and as read. */
interface SampleHead extends Pick<ExposedSample, 'name' | 'family' | 'labels'> {
  readonly text: string;
}

/** @returns the beginning of a line, or in words why it cannot be read */
function readHead(line: string, families: Map<string, MetricFamily>): SampleHead | string {
  const nameEnd = endOfName(line, 0);
  if (nameEnd === 0) return 'does not start with the name of a metric';
  const name = line.slice(0, nameEnd);
  let place = nameEnd;
  let labels: Readonly<Record<string, string>> = {};
  if (line[place] === '{') {
    const read = readLabels(line, place);
    if (typeof read === 'string') return read;
    [labels, place] = read;
  }
  if (line[place] !== ' ') return 'has no blank between the name and the value';
  return { text: line.slice(0, place), name, family: familyOf(families, name), labels };
}

/** @returns the sample, or in words why the line cannot be read */
function readSample(line: string, number: number, { text, name, family, labels }: SampleHead): ExposedSample | string {
  const place = text.length;
  const exemplarAt = line.indexOf(' # ', place);
  const parts = line
    .slice(place + 1, exemplarAt === -1 ? undefined : exemplarAt)
    .trimEnd()
    .split(' ');
  const value = numberFrom(parts[0] ?? '');
  if (value === null) return `"${parts[0] ?? ''}" is no number`;
  const at = parts[1] === undefined ? null : millisecondsFrom(parts[1]);
  if (parts[1] !== undefined && at === null) return `"${parts[1]}" is no time in seconds`;
  if (parts.length > 2) return `"${parts[2] ?? ''}" stands behind the time`;
  const exemplar = exemplarAt === -1 ? null : readExemplar(line.slice(exemplarAt + 3));
  if (typeof exemplar === 'string') return exemplar;
  return {
    name,
    family,
    labels,
    value,
    at,
    exemplar,
    line: number
  };
}

function familyOf(families: Map<string, MetricFamily>, name: string): MetricFamily {
  const own = families.get(name);
  if (own && suffixes[own.type].includes('')) return own;
  for (const suffix of ['_total', '_bucket', '_count', '_sum', '_created', '_info', '_gcount', '_gsum'])
    if (name.endsWith(suffix)) {
      const family = families.get(name.slice(0, -suffix.length));
      if (family && suffixes[family.type].includes(suffix)) return family;
    }
  return familyNamed(families, name);
}

function readExemplar(text: string): ExposedExemplar | string {
  const read = text.startsWith('{') ? readLabels(text, 0) : 'has an exemplar without labels';
  if (typeof read === 'string') return read;
  const [first = '', second] = text.slice(read[1]).trim().split(/ +/);
  const value = numberFrom(first);
  if (value === null) return 'has an exemplar without a number';
  const at = second === undefined ? null : millisecondsFrom(second);
  if (second !== undefined && at === null) return `has an exemplar at "${second}", which is no time`;
  return { labels: read[0], value, at };
}

/** Labels from an opening bracket on. @returns them and the place behind the closing one, or what is wrong */
function readLabels(line: string, open: number): [Readonly<Record<string, string>>, number] | string {
  const labels = new Map<string, string>();
  let place = open + 1;
  while (line[place] !== '}') {
    const keyEnd = endOfName(line, place);
    if (keyEnd === place) return 'has a label without a name';
    const key = line.slice(place, keyEnd);
    if (line[keyEnd] !== '=' || line[keyEnd + 1] !== '"')
      return `has a label ${key} without a value in quotation marks`;
    let close = keyEnd + 2;
    while (close < line.length && line[close] !== '"') close += line[close] === '\\' ? 2 : 1;
    if (close >= line.length) return `has a label ${key} whose value does not end`;
    if (labels.has(key)) return `has the label ${key} twice`;
    labels.set(key, unescaped(line.slice(keyEnd + 2, close)));
    place = close + 1;
    if (line[place] === ',') place++;
    else if (line[place] !== '}') return `has no comma behind the label ${key}`;
  }
  return [Object.fromEntries(labels), place + 1];
}

/** The place behind a name: letters, digits, `_`, `:` and `.`, not a digit first. */
function endOfName(line: string, start: number): number {
  let place = start;
  for (; place < line.length; place++) {
    const code = line.charCodeAt(place);
    const letter = (code >= 97 && code <= 122) || (code >= 65 && code <= 90) || code === 95 || code === 58;
    const digit = (code >= 48 && code <= 57) || code === 46;
    if (!letter && !(digit && place > start)) break;
  }
  return place;
}

function numberFrom(text: string): number | null {
  if (text === 'NaN') return NaN;
  if (text === '+Inf' || text === 'Inf') return Infinity;
  if (text === '-Inf') return -Infinity;
  if (!/^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(text)) return null;
  return Number(text);
}

/** Seconds as text to whole milliseconds, rounded down, digit by digit: no double is exact to the nanosecond. */
function millisecondsFrom(text: string): number | null {
  const [, sign = '', whole = '', fraction = ''] = /^([+-]?)(\d{1,12})(?:\.(\d*))?$/.exec(text) ?? [];
  if (whole !== '' && sign !== '-') return Number(whole) * 1000 + Number(fraction.slice(0, 3).padEnd(3, '0'));
  const seconds = numberFrom(text);
  return seconds === null || !Number.isFinite(seconds) ? null : Math.floor(seconds * 1000);
}

/** `\n`, `\"` and `\\` stand for a line break, a quotation mark and a backslash; any other backslash stands for itself. */
const unescaped = (text: string): string =>
  text.includes('\\') ? text.replace(/\\([n"\\])/g, (_all, letter: string) => (letter === 'n' ? '\n' : letter)) : text;
