import type { Cookies } from '@sveltejs/kit';

/** Whether somebody chose the night theme; null while they have not chosen, and the page follows the system. */
export function chosenNight(cookies: Pick<Cookies, 'get'>): boolean | null {
  const theme = cookies.get('theme');
  return theme === 'night' ? true : theme === 'day' ? false : null;
}
