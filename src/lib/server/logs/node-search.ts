import { nodeFields, quotedSearch, valueText, type Line } from '$lib/core/logs';

/**
 * A search that finds everything on the node of a line; null where it says none.
 *
 * @example nodeSearch(line) // '(node.name = harbour-n2 or k8s.node.name = harbour-n2 or host.name = harbour-n2)'
 */
export function nodeSearch({ fields, origin }: Pick<Line, 'fields' | 'origin'>): string | null {
  const all = { ...origin.resource, ...origin.scope.fields, ...fields };
  const node = nodeFields.map((name) => (Object.hasOwn(all, name) ? valueText(all[name] ?? null) : '')).find(Boolean);
  return node === undefined ? null : `(${nodeFields.map((name) => `${name} = ${quotedSearch(node)}`).join(' or ')})`;
}
