import type { FieldValue, SearchedLine } from '../../src/lib/core/logs';
import type { Search } from '../../src/lib/core/logs/search/tree';

/** A line with some fields, as a search looks at it. */
export const line = (text: string, fields: Record<string, FieldValue> = {}, severity = 9): SearchedLine => ({
  ...{ text, severity },
  field: (name) => (Object.hasOwn(fields, name) ? fields[name] : undefined)
});

/** A tree without the places of its parts. */
export const bare = (search: Search): unknown =>
  JSON.parse(JSON.stringify(search, (key, value: unknown) => (key === 'at' ? undefined : value)));
