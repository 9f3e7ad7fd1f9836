/** Types of metric families (OpenMetrics 1.0, section 5.1). */
export const familyTypes = [
  'gauge',
  'counter',
  'stateset',
  'info',
  'histogram',
  'gaugehistogram',
  'summary',
  'unknown'
] as const;
export type FamilyType = (typeof familyTypes)[number];

export interface MetricFamily {
  readonly name: string;
  type: FamilyType;
  unit: string;
  help: string;
}

/** What a line points to as one of the things it counted (OpenMetrics 1.0, section 4.6.1). */
export interface ExposedExemplar {
  readonly labels: Readonly<Record<string, string>>;
  readonly value: number;
  /** Milliseconds since the epoch; null when it has none. */
  readonly at: number | null;
}

/** One sample: a line of an exposition that is no comment. */
export interface ExposedSample {
  /** The whole name, such as `requests_total`. */
  readonly name: string;
  readonly family: MetricFamily;
  readonly labels: Readonly<Record<string, string>>;
  readonly value: number;
  /** Milliseconds since the epoch; null when the line has none. */
  readonly at: number | null;
  readonly exemplar: ExposedExemplar | null;
  /** Counted from 1. */
  readonly line: number;
}

/** A line that cannot be read, and why. */
export interface LineFault {
  readonly line: number;
  readonly text: string;
  readonly reason: string;
}

export interface Exposition {
  readonly families: ReadonlyMap<string, MetricFamily>;
  readonly samples: readonly ExposedSample[];
  readonly faults: readonly LineFault[];
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

/** The most faults that are told; more of the same tell nothing. */
const mostFaults = 100;

/**
 * Reads an exposition in OpenMetrics text 1.0. Samples of one series that stand together share their labels. A line that cannot be read costs itself: it is told with its number and the reason, the others are read.
 * Values may be NaN and infinite here; whoever keeps them decides.
 *
 * @example readExposition('# TYPE up gauge\nup{host="a"} 1\n# EOF\n').samples[0].value // 1
 */
export function readExposition(text: string): Exposition {
  const families = new Map<string, MetricFamily>();
  const samples: ExposedSample[] = [];
  const faults: LineFault[] = [];
  let complete = false;
  let number = 0;
  let head: SampleHead | string = '';
  for (let start = 0; start < text.length;) {
    const end = text.indexOf('\n', start);
    const line = text.slice(start, end === -1 ? text.length : end);
    start = end === -1 ? text.length : end + 1;
    number++;
    if (line === '' || line === '\r') continue;
    if (complete) {
      fault(faults, number, line, 'stands behind # EOF');
      break;
    }
    if (line.startsWith('# EOF')) complete = true;
    else if (line.startsWith('#')) {
      describe(line, number, families, faults);
      head = '';
    } else {
      // Lines of one series stand together: what the last one began with need not be read again.
      if (typeof head === 'string' || line[head.text.length] !== ' ' || !line.startsWith(head.text))
        head = readHead(line, families);
      const sample = typeof head === 'string' ? head : readSample(line, number, head);
      if (typeof sample === 'string') fault(faults, number, line, sample);
      else samples.push(sample);
    }
  }
  return { families, samples, faults, complete };
}

function fault(faults: LineFault[], line: number, text: string, reason: string): void {
  if (faults.length < mostFaults) faults.push({ line, text: text.slice(0, 120), reason });
}

/** `# TYPE`, `# UNIT` and `# HELP`; other comments are passed over. */
function describe(line: string, number: number, families: Map<string, MetricFamily>, faults: LineFault[]): void {
  const [, word, name, rest = ''] = /^# (TYPE|UNIT|HELP) (\S+) ?(.*?)\r?$/.exec(line) ?? [];
  if (word === undefined || name === undefined) return;
  const family = familyNamed(families, name);
  if (word === 'HELP') family.help = unescaped(rest);
  else if (word === 'UNIT') family.unit = rest;
  else if ((familyTypes as readonly string[]).includes(rest)) family.type = rest as FamilyType;
  else fault(faults, number, line, `"${rest}" is no type of metric; it is one of ${familyTypes.join(', ')}`);
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
  if (nameEnd === 0) return 'does not begin with the name of a metric';
  const name = line.slice(0, nameEnd);
  let place = nameEnd;
  let labels: Record<string, string> = {};
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
  const seconds = parts[1] === undefined ? null : numberFrom(parts[1]);
  if (parts[1] !== undefined && (seconds === null || !Number.isFinite(seconds)))
    return `"${parts[1]}" is no time in seconds`;
  if (parts.length > 2) return `"${parts[2] ?? ''}" stands behind the time`;
  const exemplar = exemplarAt === -1 ? null : readExemplar(line.slice(exemplarAt + 3));
  if (typeof exemplar === 'string') return exemplar;
  return {
    name,
    family,
    labels,
    value,
    at: seconds === null ? null : Math.round(seconds * 1000),
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
  const at = second === undefined ? null : numberFrom(second);
  if (second !== undefined && (at === null || !Number.isFinite(at)))
    return `has an exemplar at "${second}", which is no time`;
  return { labels: read[0], value, at: at === null ? null : Math.round(at * 1000) };
}

/** Labels from an opening bracket on. @returns them and the place behind the closing one, or what is wrong */
function readLabels(line: string, open: number): [Record<string, string>, number] | string {
  const labels: Record<string, string> = {};
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
    if (Object.hasOwn(labels, key)) return `has the label ${key} twice`;
    labels[key] = unescaped(line.slice(keyEnd + 2, close));
    place = close + 1;
    if (line[place] === ',') place++;
    else if (line[place] !== '}') return `has no comma behind the label ${key}`;
  }
  return [labels, place + 1];
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

const unescaped = (text: string): string =>
  text.includes('\\') ? text.replace(/\\(.)/g, (_all, letter: string) => (letter === 'n' ? '\n' : letter)) : text;
