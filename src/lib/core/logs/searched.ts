import type { FieldValue, SearchedLine } from './search/match';
import { valueText, type Line, type LogValue } from './line';

/** What Bussola knows of lines of one stream, whatever their fields are called. */
export interface StreamContext {
  readonly service: string;
  readonly account: string;
  readonly stream: string;
  /** The name of a resource of the inventory. */
  readonly resourceName: (id: number) => string | undefined;
}

/** Names that mean what Bussola knows of a line, not a field of it. */
const own: ReadonlySet<string> = new Set([
  ...['service', 'account', 'stream', 'resource', 'severity', 'text', 'shape', 'trace', 'span', 'event']
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
