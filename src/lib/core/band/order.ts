/**
 * A quantile of sorted numbers: linear interpolation (Hyndman and Fan, type 7); NaN of none.
 *
 * @param count how many of them are there
 * @example sortedQuantile(Float64Array.of(1, 2, 3), 3, 0.25) // 1.5
 */
export function sortedQuantile(sorted: Float64Array, count: number, p: number): number {
  if (count === 0) return NaN;
  const place = (count - 1) * p;
  const below = Math.floor(place);
  const low = sorted[below] as number;
  const high = sorted[below + 1 < count ? below + 1 : below] as number;
  return low + (high - low) * (place - below);
}

/** Numbers that few, as the values of one slot of a season are, are sorted fastest by insertion. */
const few = 80;

/** Spans so short are sorted where something is selected in them. */
const short = 8;

/** Moves numbers about until the k-th smallest of the first `count` stands at its place, smaller ones before it and larger ones behind it. */
function select(numbers: Float64Array, count: number, k: number): void {
  let [left, right] = [0, count - 1];
  while (right - left > short) {
    // The middle of three: what is in order already is no worse.
    const middle = (left + right) >> 1;
    const [a, b, c] = [numbers[left] as number, numbers[middle] as number, numbers[right] as number];
    const pivot = a < b ? (b < c ? b : a < c ? c : a) : a < c ? a : b < c ? c : b;
    let [i, j] = [left, right];
    while (i <= j) {
      while ((numbers[i] as number) < pivot) i++;
      while ((numbers[j] as number) > pivot) j--;
      if (i > j) break;
      const moved = numbers[i] as number;
      numbers[i++] = numbers[j] as number;
      numbers[j--] = moved;
    }
    if (k <= j) right = j;
    else if (k >= i) left = i;
    else return;
  }
  insertionSort(numbers, left, right + 1);
}

function insertionSort(numbers: Float64Array, from: number, to: number): void {
  for (let i = from + 1; i < to; i++) {
    const value = numbers[i] as number;
    let j = i - 1;
    while (j >= from && (numbers[j] as number) > value) {
      numbers[j + 1] = numbers[j] as number;
      j--;
    }
    numbers[j + 1] = value;
  }
}

/** Collects numbers and gives their quantiles, without making a new array each time. */
export class Scratch {
  #numbers: Float64Array;
  #count = 0;
  #sorted = false;

  /** @param room for so many numbers at first */
  constructor(room = 64) {
    this.#numbers = new Float64Array(room);
  }

  clear(): void {
    this.#count = 0;
    this.#sorted = false;
  }

  /** Adds a number; a gap is left out. */
  add(value: number): void {
    if (value !== value) return;
    if (this.#count === this.#numbers.length) {
      const grown = new Float64Array(this.#numbers.length * 2);
      grown.set(this.#numbers);
      this.#numbers = grown;
    }
    this.#numbers[this.#count++] = value;
    this.#sorted = false;
  }

  get count(): number {
    return this.#count;
  }

  /** NaN of none. */
  quantile(p: number): number {
    if (!this.#sorted) this.#sort();
    return sortedQuantile(this.#numbers, this.#count, p);
  }

  /** NaN of none. Found by selection (Hoare 1961), which is faster than sorting all. */
  median(): number {
    const count = this.#count;
    if (this.#sorted || count < 3) return this.quantile(0.5);
    const numbers = this.#numbers;
    const middle = count >> 1;
    select(numbers, count, middle);
    const high = numbers[middle] as number;
    if (count % 2 === 1) return high;
    let low = numbers[0] as number;
    for (let i = 1; i < middle; i++) if ((numbers[i] as number) > low) low = numbers[i] as number;
    return low + (high - low) / 2;
  }

  #sort(): void {
    this.#sorted = true;
    const numbers = this.#numbers;
    const count = this.#count;
    if (count > few) {
      numbers.subarray(0, count).sort();
      return;
    }
    insertionSort(numbers, 0, count);
  }
}

/** A few numbers in order, of which some come and others go. */
export class SortedWindow {
  readonly #numbers: Float64Array;
  #count = 0;

  /** @param most numbers that are in it at once */
  constructor(most: number) {
    this.#numbers = new Float64Array(most + 1);
  }

  get count(): number {
    return this.#count;
  }

  /** Adds a number; a gap is left out. */
  add(value: number): void {
    if (value !== value) return;
    let i = this.#count++ - 1;
    while (i >= 0 && (this.#numbers[i] as number) > value) {
      this.#numbers[i + 1] = this.#numbers[i] as number;
      i--;
    }
    this.#numbers[i + 1] = value;
  }

  /** Takes one number away that was added; a gap never was. */
  remove(value: number): void {
    if (value !== value) return;
    let i = 0;
    while ((this.#numbers[i] as number) < value) i++;
    this.#count--;
    for (; i < this.#count; i++) this.#numbers[i] = this.#numbers[i + 1] as number;
  }

  /** NaN of none. */
  median(): number {
    return sortedQuantile(this.#numbers, this.#count, 0.5);
  }
}

/** So many of the numbers, evenly taken from all of them, in a scratch. */
export function sampled(values: ArrayLike<number>, most: number): Scratch {
  const every = Math.max(1, Math.floor(values.length / most));
  const scratch = new Scratch(most + 1);
  for (let i = 0; i < values.length; i += every) scratch.add(values[i] as number);
  return scratch;
}
