import { z } from 'zod';
import { mostListed, valueText, type LogFields, type ShownLine } from '$lib/core/logs';
import { instant } from './operation';

/** A line as the API lists it. */
export const lineAnswer = z.object({
  key: z.string().describe('By which the line is found again.'),
  at: instant,
  nanos: z.int().describe('Nanoseconds beyond that millisecond.'),
  severity: z.int().describe('OpenTelemetry’s severity number, 1 to 24; 0 where it says none.'),
  text: z.string().describe(`At most ${mostListed} characters of it; all of it when it is read by its key.`),
  isCut: z.boolean().describe('Whether it says more.'),
  account: z.string(),
  service: z.string(),
  stream: z.string(),
  resource: z.string().describe('Of the inventory; empty where none was found.'),
  shape: z.int().describe('What it has in common with other lines of its stream.')
});

/** A value of a line, with what it is. */
export const valueAnswer = z.object({
  name: z.string(),
  kind: z.enum(['text', 'number', 'whole number', 'yes or no', 'bytes', 'list', 'map', 'nothing']),
  value: z.string()
});

/** Fields as the API lists them. */
export function valuesOf(fields: LogFields): z.output<typeof valueAnswer>[] {
  return Object.entries(fields).map(([name, value]) => ({ name, kind: kindOf(value), value: valueText(value) }));
}

function kindOf(value: LogFields[string]): z.output<typeof valueAnswer>['kind'] {
  if (value === null) return 'nothing';
  if (value instanceof Uint8Array) return 'bytes';
  if (Array.isArray(value)) return 'list';
  const kinds = { string: 'text', number: 'number', bigint: 'whole number', boolean: 'yes or no' } as const;
  const kind = typeof value;
  return kind in kinds ? kinds[kind as keyof typeof kinds] : 'map';
}

/** A line that was found as the API lists it. */
export const lineOf = (line: ShownLine): z.output<typeof lineAnswer> => {
  const { at, nanos, severity, text, isCut, account, service, stream, resource, shape } = line;
  return { key: line.key, at, nanos, severity, text, isCut, account, service, stream, resource, shape };
};
