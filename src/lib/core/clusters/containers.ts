import { shareOf, sumOf, type Use } from './use';

/** A container as it stands: one copy of a workload on a node. */
export interface Container {
  /** Its name, such as `seatmap-2`. */
  readonly copy: string;
  readonly workload: string;
  /** Empty where it is not known. */
  readonly node: string;
  /** Bytes. */
  readonly memory: Use;
  /** Cores. */
  readonly processor: Use;
  /** Times it was started again in the last day. */
  readonly restarts: number;
}

/** Containers that belong together: those of a workload, or on a node. */
export interface ContainerGroup {
  readonly name: string;
  readonly containers: readonly Container[];
  readonly memory: Use;
  readonly processor: Use;
  readonly restarts: number;
  /** The one that is nearest to its memory limit; null where none has a limit. */
  readonly fullest: Container | null;
}

/**
 * Containers in groups, by name.
 *
 * @param by what they are grouped by
 * @param names groups that there are, also where nothing runs
 * @example groupsOf(containers, 'node', ['harbour-n1', 'harbour-n2'])[0].memory.requested // 1073741824
 */
export function groupsOf(
  containers: readonly Container[],
  by: 'workload' | 'node',
  names: readonly string[] = []
): ContainerGroup[] {
  const all = new Set([...names, ...containers.map((one) => one[by]).filter((name) => name !== '')]);
  return [...all]
    .sort((a, b) => (a < b ? -1 : 1))
    .map((name) =>
      groupOf(
        name,
        containers.filter((one) => one[by] === name)
      )
    );
}

const groupOf = (name: string, containers: readonly Container[]): ContainerGroup => ({
  name,
  containers,
  memory: sumOf(containers.map(({ memory }) => memory)),
  processor: sumOf(containers.map(({ processor }) => processor)),
  restarts: containers.reduce((sum, { restarts }) => sum + restarts, 0),
  fullest: containers.reduce<Container | null>(
    (most, one) => ((shareOf(one.memory) ?? -1) > (most === null ? -1 : (shareOf(most.memory) ?? -1)) ? one : most),
    null
  )
});

/** Containers as a list shows them: the fullest first, those without a limit last. */
export const byFullness = (containers: readonly Container[]): Container[] =>
  [...containers].sort(
    (a, b) => (shareOf(b.memory) ?? -1) - (shareOf(a.memory) ?? -1) || (a.copy < b.copy ? -1 : a.copy > b.copy ? 1 : 0)
  );
