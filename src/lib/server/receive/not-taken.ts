/** A request that is not taken: its status, and in words what is wrong and what to do. */
export class NotTaken extends Error {
  override readonly name = 'NotTaken';
  constructor(
    readonly status: number,
    message: string,
    readonly remedy: string
  ) {
    super(message);
  }
}
