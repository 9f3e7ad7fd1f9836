import { matchesAny } from '../../pattern';
import { valueText, type LogFields, type LogValue, type Origin } from '../line';
import { matcherOf } from '../search/match';
import { readSearch } from '../search/read';
import { searchable } from '../searched';
import type { ArrivedLine, ArrivedLines } from './gather';

/** Which lines are collected, as a plan says it. */
export interface Admission {
  /** The least severity number; lines that say none are collected whatever it is. */
  readonly from: number;
  /** Patterns of namespaces that are left out. */
  readonly namespaces: readonly string[];
  /** A search that finds what is left out; empty for nothing. */
  readonly leaveOut: string;
}

/** Why lines are left out. */
export const leftOutReasons = {
  severity: 'lines below the severity of the plan',
  namespace: 'lines of namespaces that the plan leaves out',
  search: 'lines that the plan leaves out by a search',
  rule: 'lines that a rule leaves out'
} as const;
export type LeftOutReason = keyof typeof leftOutReasons;

/** How many lines were left out, by reason. */
export type LeftOut = Readonly<Record<LeftOutReason, number>>;

/** Names under which programs say their namespace. */
const namespaceNames = ['namespace', 'k8s.namespace.name', 'namespace.name', 'service.namespace'];

/**
 * Leaves out lines that a plan does not collect, before they are stored.
 *
 * @throws Refusal for a search that cannot be read
 * @example admit({ from: 9, namespaces: [], leaveOut: '' }, batches).leftOut.severity // 12
 */
export function admit(
  { from, namespaces, leaveOut }: Admission,
  batches: readonly ArrivedLines[]
): { readonly batches: readonly ArrivedLines[]; readonly leftOut: LeftOut } {
  const matcher = leaveOut.trim() === '' ? null : matcherOf(readSearch(leaveOut));
  const leftOut: Record<LeftOutReason, number> = { severity: 0, namespace: 0, search: 0, rule: 0 };
  const reasonOf = (origin: Origin, line: ArrivedLine): LeftOutReason | null => {
    if (line.severity > 0 && line.severity < from) return 'severity';
    if (namespaces.length > 0 && matchesAny(namespaces, namespaceOf(origin, line))) return 'namespace';
    if (matcher === null) return null;
    const field = (name: string) => {
      const value = valueOfArrived(origin, line, name);
      return value === undefined ? undefined : searchable(value);
    };
    return matcher.matches({ text: line.text, severity: line.severity, field }) ? 'search' : null;
  };
  const admitted = batches.map(({ origin, lines }) => ({
    origin,
    lines: lines.filter((line) => {
      const reason = reasonOf(origin, line);
      if (reason !== null) leftOut[reason]++;
      return reason === null;
    })
  }));
  return { batches: admitted.filter(({ lines }) => lines.length > 0), leftOut };
}

/** A field of a line that has just arrived: its own, of the part of its program, or of its program. */
export function valueOfArrived(origin: Origin, line: ArrivedLine, name: string): LogValue | undefined {
  for (const fields of [line.fields, origin.scope.fields, origin.resource])
    if (Object.hasOwn(fields, name)) return fields[name] ?? null;
  if (name === 'trace' || name === 'span' || name === 'event') return line[name] === '' ? undefined : line[name];
  return undefined;
}

function namespaceOf({ resource }: Origin, { fields }: ArrivedLine): string {
  const named = (all: LogFields, name: string) => (Object.hasOwn(all, name) ? valueText(all[name] ?? null) : '');
  return namespaceNames.map((name) => named(fields, name) || named(resource, name)).find((text) => text !== '') ?? '';
}
