import { Refusal } from '$lib/core/problem/problem';
import { z } from 'zod';
import { signalSchema } from '$lib/core/signal';
import { isTaken } from '../../db/pool';
import type { Context } from '../../db/context';
import { resolveSignal } from './resolve';
import { changeSignal, insertSignal, type NamedSignal } from './signals';

/** A signal with the name to save it under. */
export const namedSignalSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the signal a name.' }).max(120),
  signal: signalSchema
});

/**
 * Keeps a signal under a name: as a new one, or in place of one that is there.
 *
 * @returns null when the one to replace is gone
 * @throws Refusal when the name is taken, Refusal when the signal cannot be computed
 */
export async function saveSignal(
  { db, clock }: Pick<Context, 'db' | 'clock'>,
  id: number | null,
  { name, signal }: z.infer<typeof namedSignalSchema>,
  by: string
): Promise<NamedSignal | null> {
  await resolveSignal(db, signal);
  try {
    const at = clock.now();
    return id === null
      ? await insertSignal(db, name, signal, by, at)
      : await changeSignal(db, id, name, signal, by, at);
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal(
      'name-taken',
      `There is already a signal named ${name}.`,
      'Choose another name, or change that one.'
    );
  }
}
