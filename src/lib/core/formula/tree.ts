import type { TextSpan } from '../problem/problem';

export type Operator = '+' | '-' | '*' | '/' | '^' | '=' | '!=' | '<' | '<=' | '>' | '>=';

/** A formula as a tree. */
export type Formula =
  | { readonly kind: 'number'; readonly value: number; readonly at: TextSpan }
  | { readonly kind: 'duration'; readonly milliseconds: number; readonly at: TextSpan }
  | { readonly kind: 'name'; readonly name: string; readonly at: TextSpan }
  | { readonly kind: 'call'; readonly name: string; readonly parts: readonly Formula[]; readonly at: TextSpan }
  | { readonly kind: 'negative'; readonly of: Formula; readonly at: TextSpan }
  | {
      readonly kind: 'binary';
      readonly operator: Operator;
      readonly left: Formula;
      readonly right: Formula;
      readonly at: TextSpan;
    };

/** How many parts a formula has: what working it out costs. @example partsIn(readFormula('a + 1')) // 3 */
export function partsIn(formula: Formula): number {
  if (formula.kind === 'negative') return 1 + partsIn(formula.of);
  if (formula.kind === 'binary') return 1 + partsIn(formula.left) + partsIn(formula.right);
  if (formula.kind === 'call') return 1 + formula.parts.reduce((sum, part) => sum + partsIn(part), 0);
  return 1;
}

/**
 * The rows that a formula uses, each once, in order. The word that says how `fill` fills is no row.
 *
 * @example namesIn(readFormula('served / (served + failed)')) // ['served', 'failed']
 */
export function namesIn(formula: Formula): string[] {
  const names = new Set<string>();
  const walk = (node: Formula): void => {
    if (node.kind === 'name') names.add(node.name);
    else if (node.kind === 'call') (node.name === 'fill' ? node.parts.slice(0, 1) : node.parts).forEach(walk);
    else if (node.kind === 'negative') walk(node.of);
    else if (node.kind === 'binary') [node.left, node.right].forEach(walk);
  };
  walk(formula);
  return [...names];
}
