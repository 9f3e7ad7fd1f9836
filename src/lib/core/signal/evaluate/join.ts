import { labelValue, type Labels } from '../conditions';
import { arrivedTogether, type Column } from './table';

/** Two columns that belong together, and the labels of what they make. */
export interface JoinedPair {
  readonly left: Column;
  readonly right: Column;
  readonly labels: Labels;
}

export interface Joined {
  readonly kind: 'joined';
  readonly pairs: readonly JoinedPair[];
  /** How many of each side have no counterpart. */
  readonly leftAlone: number;
  readonly rightAlone: number;
  /** A label on which the sides never agree, when nothing was joined. */
  readonly differsIn: string | null;
}

/** Which columns of two rows belong together; or the label values that several of both sides share. */
export type JoinResult = Joined | { readonly kind: 'ambiguous'; readonly shared: Labels };

/**
 * Joins the series of two rows where the labels that both rows have are equal. One side may have several series for the same values, such as
 * each machine against its region; both may not. A row of one series without labels in common is joined with every series of the other.
 *
 * @example joinByLabels([{ labels: { region: 'a' }, … }], [{ labels: { region: 'a' }, … }]).pairs.length // 1
 */
export function joinByLabels(left: readonly Column[], right: readonly Column[]): JoinResult {
  const common = [...namesOf(left)].filter((name) => namesOf(right).has(name));
  if (common.length === 0 && left.length > 1 && right.length > 1) return { kind: 'ambiguous', shared: {} };
  const [ours, theirs] = [grouped(left, common), grouped(right, common)];
  const pairs: JoinedPair[] = [];
  let leftAlone = 0;
  for (const [key, lefts] of ours) {
    const rights = theirs.get(key) ?? [];
    if (rights.length === 0) leftAlone += lefts.length;
    if (lefts.length > 1 && rights.length > 1)
      return { kind: 'ambiguous', shared: only((lefts[0] as Column).labels, common) };
    for (const one of lefts)
      for (const other of rights)
        pairs.push({
          left: one,
          right: other,
          labels:
            rights.length > 1 || Object.keys(other.labels).length > Object.keys(one.labels).length
              ? other.labels
              : one.labels
        });
  }
  let rightAlone = 0;
  for (const [key, rights] of theirs) if (!ours.has(key)) rightAlone += rights.length;
  const differsIn = pairs.length > 0 ? null : (common.find((name) => disjoint(left, right, name)) ?? null);
  return { kind: 'joined', pairs, leftAlone, rightAlone, differsIn };
}

/** The column that a function of two makes, cell by cell. */
export const joined = (
  { left, right, labels }: JoinedPair,
  of: (one: Float64Array, other: Float64Array) => Float64Array
): Column => ({
  labels,
  values: of(left.values, right.values),
  ...arrivedTogether([left, right]),
  seriesId: left.seriesId !== null && left.seriesId === right.seriesId ? left.seriesId : null
});

const namesOf = (columns: readonly Column[]): Set<string> =>
  new Set(columns.flatMap(({ labels }) => Object.keys(labels)));

const only = (labels: Labels, names: readonly string[]): Labels =>
  Object.fromEntries(names.map((name) => [name, labelValue(labels, name)]));

function grouped(columns: readonly Column[], names: readonly string[]): Map<string, Column[]> {
  const groups = new Map<string, Column[]>();
  for (const column of columns) {
    const key = JSON.stringify(names.map((name) => labelValue(column.labels, name)));
    const group = groups.get(key);
    if (group) group.push(column);
    else groups.set(key, [column]);
  }
  return groups;
}

function disjoint(left: readonly Column[], right: readonly Column[], name: string): boolean {
  const values = new Set(left.map(({ labels }) => labelValue(labels, name)));
  return !right.some(({ labels }) => values.has(labelValue(labels, name)));
}
