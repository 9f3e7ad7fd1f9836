import { ReceiveFault } from '$lib/core/receive';
import { DiskIsLow } from '../../base/disk';
import { ReadingFault } from '../../parsing/reading-room';

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

/** Whether an error says to the sender, with its status, why nothing was taken. */
export const isNotTaken = (error: unknown): error is NotTaken | ReceiveFault | ReadingFault | DiskIsLow =>
  error instanceof NotTaken ||
  error instanceof ReceiveFault ||
  error instanceof ReadingFault ||
  error instanceof DiskIsLow;
