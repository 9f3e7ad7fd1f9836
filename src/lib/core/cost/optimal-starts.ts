/**
 * Where levels begin in the partition of least cost: the squared deviation from the mean of each level in units of the noise, and 4 log n for every level but the first
 * (optimal partitioning, Jackson et al., IEEE Signal Processing Letters 12, 2005).
 *
 * @param noise above 0, in the unit of the values
 * @param shortest values that a level has at least; with fewer than twice as many there is one level
 * @returns indices, the first of them 0; O(n²)
 * @example optimalStarts([1, 1, 1, 9, 9, 9], 1, 2) // [0, 3]
 */
export function optimalStarts(values: readonly number[], noise: number, shortest: number): number[] {
  const n = values.length;
  if (n < 2 * shortest) return [0];
  const [sums, squares] = [new Float64Array(n + 1), new Float64Array(n + 1)];
  for (let i = 0; i < n; i++) {
    const scaled = (values[i] as number) / noise;
    sums[i + 1] = (sums[i] as number) + scaled;
    squares[i + 1] = (squares[i] as number) + scaled ** 2;
  }
  const costOf = (from: number, to: number): number => {
    const sum = (sums[to] as number) - (sums[from] as number);
    return (squares[to] as number) - (squares[from] as number) - sum ** 2 / (to - from);
  };
  const penalty = 4 * Math.log(n);
  const best = new Float64Array(n + 1).fill(Infinity);
  best[0] = -penalty;
  const cameFrom = new Int32Array(n + 1);
  for (let to = shortest; to <= n; to++)
    for (let from = 0; from <= to - shortest; from++) {
      const cost = (best[from] as number) + costOf(from, to) + penalty;
      if (cost < (best[to] as number)) [best[to], cameFrom[to]] = [cost, from];
    }
  const starts: number[] = [];
  for (let to = n; to > 0; to = cameFrom[to] as number) starts.unshift(cameFrom[to] as number);
  return starts;
}
