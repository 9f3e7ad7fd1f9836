/** Things by a key, in the order in which they come. @example groupBy([1, 2, 3], (n) => n % 2).get(1) // [1, 3] */
export function groupBy<One, Key>(all: Iterable<One>, keyOf: (one: One) => Key): Map<Key, One[]> {
  const groups = new Map<Key, One[]>();
  for (const one of all) {
    const key = keyOf(one);
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return groups;
}
