import type { Instant } from '../time';

/** A value as OpenTelemetry has it: whole numbers are of 64 bits and apart from those with a fraction. */
export type LogValue =
  null | string | boolean | number | bigint | Uint8Array | readonly LogValue[] | { readonly [name: string]: LogValue };

/** Values by their names. */
export type LogFields = Readonly<Record<string, LogValue>>;

/** What lines of one program have in common. */
export interface Origin {
  /** What wrote them: a program, a container, a machine. */
  readonly resource: LogFields;
  readonly resourceDropped: number;
  readonly resourceSchema: string;
  /** The part of the program. */
  readonly scope: {
    readonly name: string;
    readonly version: string;
    readonly fields: LogFields;
    readonly dropped: number;
  };
  readonly scopeSchema: string;
}

/**
 * One line: a log record, with nothing left out of what was sent.
 *
 * Source: OpenTelemetry, Logs Data Model.
 */
export interface Line {
  readonly at: Instant;
  /** Nanoseconds beyond that millisecond, 0 to 999,999. */
  readonly nanos: number;
  /** When it was seen by whoever collected it, where that is known. */
  readonly observed: { readonly at: Instant; readonly nanos: number } | null;
  /** OpenTelemetry's severity number, 1 to 24; 0 where it says none. */
  readonly severity: number;
  /** The severity as the program wrote it; empty for none. */
  readonly severityText: string;
  /** What people read: the body where it is text, without the colours of a terminal; its JSON otherwise. */
  readonly text: string;
  /** The body where it says more than {@link text}; undefined where that is all of it. */
  readonly body?: LogValue;
  readonly fields: LogFields;
  readonly fieldsDropped: number;
  /** Hexadecimal, in small letters: 32 and 16 digits; empty for none. */
  readonly trace: string;
  readonly span: string;
  readonly flags: number;
  /** The name of the event that it is; empty for none. */
  readonly event: string;
  readonly origin: Origin;
  /** The resource of the inventory that wrote it; null where none was found. */
  readonly resourceId: number | null;
}

/** The origin of lines of which nothing else is known. */
export const noOrigin: Origin = {
  resource: {},
  resourceDropped: 0,
  resourceSchema: '',
  scope: { name: '', version: '', fields: {}, dropped: 0 },
  scopeSchema: ''
};

/**
 * A value as text: what a search compares and a page shows.
 *
 * @example valueText(['a', 1n]) // '["a",1]'
 */
export function valueText(value: LogValue): string {
  if (typeof value === 'string') return value;
  if (value === null) return '';
  return jsonOf(value);
}

function jsonOf(value: LogValue): string {
  if (value === null) return 'null';
  if (typeof value === 'string') return JSON.stringify(value);
  if (typeof value !== 'object') return String(value);
  if (value instanceof Uint8Array) return JSON.stringify(base64(value));
  if (Array.isArray(value)) return `[${value.map((one: LogValue) => jsonOf(one)).join(',')}]`;
  return `{${Object.entries(value as LogFields)
    .map(([name, one]) => `${JSON.stringify(name)}:${jsonOf(one)}`)
    .join(',')}}`;
}

/** Bytes as base64. @example base64(Uint8Array.of(1, 2, 3)) // 'AQID' */
export function base64(bytes: Uint8Array): string {
  let text = '';
  for (const byte of bytes) text += String.fromCharCode(byte);
  return btoa(text);
}

/** Fields by which programs say on which node they run, that of a container first. */
export const nodeFields: readonly string[] = ['node.name', 'k8s.node.name', 'host.name'];
