import type { FieldValue, SearchedLine } from './search/match';
import { valueText, type Line, type LogValue } from './line';

/** What Bussola knows of lines of one stream, whatever their fields are called. */
export interface StreamContext {
  readonly service: string;
  readonly account: string;
  readonly stream: string;
  /** The name of a resource of the inventory. */
  readonly resourceName: (id: number) => string | undefined;
  /** When the first line of a shape was written, ms since the epoch; undefined for one that is as old as its stream, of which nobody knows whether it is new. */
  readonly shapeSince?: (shape: number) => number | undefined;
}

/** How old the shape of a line was when it was written, in minutes; undefined where nobody knows. @example shapeAge(context, 3, at) // 12.5 */
export function shapeAge({ shapeSince }: StreamContext, shape: number, at: number): number | undefined {
  const since = shapeSince?.(shape);
  return since === undefined ? undefined : Math.max(0, at - since) / 60_000;
}

/** What there is from the first lines of a stream on is not new: its shapes are those of its first day, ms. */
const firstDay = 86_400_000;

/** Since when a shape is there, as {@link StreamContext.shapeSince} says it. @example sinceOf({ firstAt, streamSince }) */
export const sinceOf = ({ firstAt, streamSince }: { readonly firstAt: number; readonly streamSince: number }) =>
  firstAt - streamSince < firstDay ? undefined : firstAt;

/** Names that mean what Bussola knows of a line, not a field of it. */
const own: ReadonlySet<string> = new Set([
  ...['service', 'account', 'stream', 'resource', 'severity', 'text', 'shape', 'shape.age', 'trace', 'span', 'event']
]);

/** Whether a name means what Bussola knows of a line. @example isOwnField('service') // true */
export const isOwnField = (name: string): boolean => own.has(name);

/** A value as a search compares it: lists and maps as their JSON. */
export const searchable = (value: LogValue): FieldValue => (typeof value === 'object' ? valueText(value) : value);

/**
 * A line as a search looks at it: its own fields first, then those of the part of the program that wrote it, then those of the program.
 *
 * @example searchedLine(line, context).field('service') // 'clusters'
 */
export const searchedLine = (line: Line & { readonly shape: number }, context: StreamContext): SearchedLine => ({
  text: line.text,
  severity: line.severity,
  field: (name) => {
    switch (name) {
      case 'service':
      case 'account':
      case 'stream':
        return context[name];
      case 'resource':
        return line.resourceId === null ? undefined : context.resourceName(line.resourceId);
      case 'shape':
        return line.shape;
      case 'shape.age':
        return shapeAge(context, line.shape, line.at);
      case 'trace':
      case 'span':
      case 'event':
        return line[name] === '' ? undefined : line[name];
      default: {
        for (const fields of [line.fields, line.origin.scope.fields, line.origin.resource])
          if (Object.hasOwn(fields, name)) return searchable(fields[name] ?? null);
        return undefined;
      }
    }
  }
});
