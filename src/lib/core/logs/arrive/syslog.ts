import { noOrigin, valueText, type LogFields, type LogValue, type Origin } from '../line';
import { severityFromSyslog } from '../severity';
import { lineFaults, LineGatherer, lineLimits, plainDraft, type Arrived, type LineDraft } from './gather';
import { nanosFromText } from './json-lines';

/** Bytes that a message may have. */
export const longestMessage = 65_536;
/** Digits of its length. */
const mostDigits = 5;

/** Whole messages of a stream, and what follows them. */
export interface SyslogFrames {
  /** From where to where each stands. */
  readonly messages: readonly (readonly [from: number, to: number])[];
  /** Where the first begins that is not whole yet. */
  readonly end: number;
  /** What stands there is no message: what follows cannot be told apart. */
  readonly isBroken: boolean;
}

/**
 * Takes messages of a stream apart, each of which stands behind its length in bytes and a space.
 *
 * Source: RFC 6587, section 3.4.1 (octet counting); RFC 5425, section 4.3.
 *
 * @example framesOf(new TextEncoder().encode('3 abc2 d')).messages // [[2, 5]]
 */
export function framesOf(bytes: Uint8Array): SyslogFrames {
  const messages: (readonly [number, number])[] = [];
  for (let end = 0; ;) {
    let at = end;
    let length = 0;
    while (at < bytes.length && at - end <= mostDigits) {
      const digit = (bytes[at] ?? 0) - 0x30;
      if (digit < 0 || digit > 9) break;
      length = length * 10 + digit;
      at++;
    }
    const digits = at - end;
    if (at === bytes.length && digits <= mostDigits) return { messages, end, isBroken: false };
    if (digits === 0 || digits > mostDigits || bytes[at] !== 0x20 || length === 0 || length > longestMessage)
      return { messages, end, isBroken: true };
    const from = at + 1;
    if (from + length > bytes.length) return { messages, end, isBroken: false };
    messages.push([from, from + length]);
    end = from + length;
  }
}

/** Words for severities and facilities, by their numbers. */
const severities = ['emergency', 'alert', 'critical', 'error', 'warning', 'notice', 'informational', 'debug'];

/**
 * Lines of syslog messages as a stream has them. What a message says of its sender is of the line's origin; its process, its facility, what kind of message it is and its structured data are fields.
 *
 * Source: RFC 5424.
 *
 * @param bytes whole messages, each behind its length
 * @example readSyslog(new TextEncoder().encode('31 <14>1 - harbour-n1 agent - - - up'), now).batches[0].lines[0].text // 'up'
 */
export function readSyslog(bytes: Uint8Array, now: number): Arrived {
  const gather = new LineGatherer(now, valueText);
  const origins = new Map<string, Origin>();
  const decoder = new TextDecoder();
  for (const [index, [from, to]] of framesOf(bytes).messages.entries()) {
    const where = `Message ${index + 1}`;
    const read = messageOf(decoder.decode(bytes.subarray(from, to)));
    if (read === null) {
      gather.refuse(lineFaults.unreadable, `${where} is no syslog message of RFC 5424.`);
      continue;
    }
    const key = `${read.host}\u0000${read.app}`;
    let origin = origins.get(key);
    if (origin === undefined) {
      const resource: [string, string][] = [];
      if (read.host !== '') resource.push(['host.name', read.host]);
      if (read.app !== '') resource.push(['service.name', read.app]);
      origins.set(key, (origin = { ...noOrigin, resource: Object.fromEntries(resource) }));
    }
    gather.add(origin, read.draft, where);
  }
  return gather.result();
}

interface Message {
  readonly host: string;
  readonly app: string;
  readonly draft: LineDraft;
}

const header = /^<(\d{1,3})>1 (\S{1,64}) (\S{1,255}) (\S{1,48}) (\S{1,128}) (\S{1,32}) /;
const nil = (text: string): string => (text === '-' ? '' : text);

/** @returns null for what is no message */
function messageOf(text: string): Message | null {
  const [whole, priority = '', time = '', host = '', app = '', process = '', kind = ''] = header.exec(text) ?? [];
  if (whole === undefined || Number(priority) > 191) return null;
  const at = time === '-' ? null : nanosFromText(time);
  if (at === undefined) return null;
  const data = structuredData(text, whole.length);
  if (data === null) return null;
  const rest = text.slice(data.end);
  if (rest !== '' && !rest.startsWith(' ')) return null;
  const severity = Number(priority) % 8;
  const fields: [string, LogValue][] = [['syslog.facility', BigInt(Math.floor(Number(priority) / 8))]];
  if (process !== '-') fields.push(['process.pid', /^\d{1,9}$/.test(process) ? BigInt(process) : process]);
  if (kind !== '-') fields.push(['syslog.msgid', kind]);
  return {
    ...{ host: nil(host), app: nil(app) },
    draft: {
      ...plainDraft,
      time: at,
      severity: severityFromSyslog(severity),
      severityText: severities[severity] ?? '',
      // A mark of the order of bytes says that it is UTF-8, and is no part of it.
      body: rest.slice(1).replace(/^\uFEFF/, ''),
      fields: { ...Object.fromEntries(fields), ...data.fields }
    }
  };
}

const quotedValue = /([^\s=\]"]{1,32})="((?:[^"\\\]]|\\[^])*)"/y;
const elementName = /\[([^\s=\]"]{1,32})/y;

/** Structured data from a place on: each value under its element and its own name. @returns null for what is none */
function structuredData(text: string, from: number): { readonly fields: LogFields; readonly end: number } | null {
  if (text[from] === '-') return { fields: {}, end: from + 1 };
  const fields: [string, LogValue][] = [];
  let at = from;
  while (text[at] === '[') {
    elementName.lastIndex = at;
    const element = elementName.exec(text)?.[1];
    if (element === undefined) return null;
    at += 1 + element.length;
    while (text[at] === ' ') {
      quotedValue.lastIndex = at + 1;
      const found = quotedValue.exec(text);
      if (found === null) return null;
      const [all, name = '', value = ''] = found;
      fields.push([`${element}.${name}`, value.replace(/\\(["\\\]])/g, '$1').slice(0, lineLimits.value)]);
      at += 1 + all.length;
    }
    if (text[at] !== ']') return null;
    at++;
  }
  return at === from ? null : { fields: Object.fromEntries(fields), end: at };
}
