/** What PostgreSQL ends one of several transactions with that wait for one another. */
const deadlock = '40P01';

/**
 * Does work in a transaction once more where the database ended it because others and it waited for one another: nothing of it was done then, and the others have gone on.
 *
 * @param work does nothing but what the database undoes
 * @param most how often it is done at most
 * @example await unlessDeadlocked(() => db.transaction(async (within) => { … }))
 */
export async function unlessDeadlocked<Result>(work: () => Promise<Result>, most = 5): Promise<Result> {
  for (let tries = 1; ; tries++)
    try {
      return await work();
    } catch (error) {
      const isDeadlock = error instanceof Error && 'code' in error && error.code === deadlock;
      if (!isDeadlock || tries >= most) throw error;
    }
}
