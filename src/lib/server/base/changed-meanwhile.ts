import { Refusal } from '$lib/core/problem/problem';

/**
 * Why something was not changed in the version that somebody saw: it is gone, or somebody else was first.
 *
 * @param now it as it is stored; null when it is gone
 * @param one what it is called within a sentence
 * @param gone that there is none
 * @example changedMeanwhile({ changedBy: 'Nerea' }, 'check', noSuchCheck).message // 'Nerea changed this check meanwhile.'
 */
export const changedMeanwhile = (
  now: { readonly changedBy: string } | null,
  one: string,
  gone: () => Refusal
): Refusal =>
  now === null
    ? gone()
    : new Refusal(
        'changed-meanwhile',
        `${now.changedBy} changed this ${one} meanwhile.`,
        'Look at it as it is now, then change it again.'
      );
