/** One line of what a request or an answer is made of. */
export interface OutlineLine {
  /** How many things it lies within. */
  readonly depth: number;
  readonly name: string;
  /** What it is, in words. */
  readonly kind: string;
  readonly isNeeded: boolean;
  readonly says: string;
  /** Of a parameter: where it stands. */
  readonly place?: string;
}
