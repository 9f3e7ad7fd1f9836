import { goto } from '$app/navigation';
import { page } from '$app/state';

/**
 * Says something in the address of the page, which stays where it is; null says it no more. What was said before is a step back away, unless it is replaced.
 *
 * @example setParameters({ resource: '17', panel: null })
 */
export function setParameters(to: Readonly<Record<string, string | null>>, replaceState = false): Promise<void> {
  const search = new URLSearchParams(page.url.search);
  for (const [name, value] of Object.entries(to))
    if (value === null) search.delete(name);
    else search.set(name, value);
  return showSearch(search, replaceState);
}

/** Shows the page with other parameters. */
export const showSearch = (search: URLSearchParams, replaceState = false): Promise<void> =>
  goto(`?${search.toString()}`, { keepFocus: true, noScroll: true, replaceState });
