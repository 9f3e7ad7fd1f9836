import type { Connector } from './schema';

/** An expression of a connector, and where it stands. */
export interface PlacedExpression {
  readonly path: readonly (string | number)[];
  readonly expression: string;
}

/** Keys under which expressions stand, whatever holds them. */
const keys = new Set(['each', 'map', 'next', 'first', 'more', 'body', 'take', 'at', 'through']);
/** Keys of records whose values are expressions. */
const records = new Set(['with', 'headers', 'functions']);

/**
 * All expressions of a connector with their places, so that each can be read before any is needed.
 *
 * @example expressionsOf(connector)[0] // { path: ['functions', 'metricOf'], expression: 'function($kind) { … }' }
 */
export function expressionsOf(connector: Connector): PlacedExpression[] {
  const { values: _values, signIn: _signIn, ...rest } = connector;
  const found: PlacedExpression[] = [];
  const look = (value: unknown, path: readonly (string | number)[]): void => {
    if (typeof value !== 'object' || value === null) return;
    for (const [key, inner] of Object.entries(value)) {
      const place = [...path, key];
      if (typeof inner === 'string' && (keys.has(key) || records.has(String(path.at(-1)))))
        found.push({ path: place, expression: inner });
      else look(inner, place);
    }
  };
  look(rest, []);
  return found;
}
