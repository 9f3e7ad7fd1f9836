import { Refusal } from '../../src/lib/core/problem/problem';

/** Why something was refused; null when it was not. Whatever else goes wrong is thrown on. @example (await refusalOf(removeResponse(server, 9)))?.code // 'not-found' */
export const refusalOf = (work: Promise<unknown>): Promise<Refusal | null> =>
  work.then(
    () => null,
    (error: unknown) => {
      if (error instanceof Refusal) return error;
      throw error;
    }
  );
