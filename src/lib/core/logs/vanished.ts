/** A field that lines had and have no more. */
export interface VanishedField {
  /** The first cell whose lines have none. */
  readonly cell: number;
  /** Lines from there on, all of them without it. */
  readonly lines: number;
}

/** So many lines without it say that a field is gone: fewer may be chance. */
const leastLines = 10;

/**
 * Whether a field vanished: most lines had it, and from some cell on many come and none has it any more.
 *
 * @param having for each cell, whether a line has the field
 * @param lacking lines of each cell that have not
 * @returns null where it did not
 * @example vanishedField([true, true, false, false], [0, 1, 8, 9]) // { cell: 2, lines: 17 }
 */
export function vanishedField(having: readonly boolean[], lacking: ArrayLike<number>): VanishedField | null {
  const last = having.lastIndexOf(true);
  if (last < 0) return null;
  let before = 0;
  let cell = -1;
  let lines = 0;
  for (let at = 0; at < lacking.length; at++) {
    const count = lacking[at] ?? 0;
    if (at <= last) {
      // Cells in which some line had it are of the time when it was there.
      if (!having[at] && count > 0) before++;
    } else if (count > 0) {
      if (cell < 0) cell = at;
      lines += count;
    }
  }
  const had = having.filter(Boolean).length;
  return cell >= 0 && lines >= leastLines && had > before ? { cell, lines } : null;
}
