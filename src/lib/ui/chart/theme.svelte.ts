import { getContext, onMount, setContext } from 'svelte';

/** Day or night; charts are painted anew when it changes. */
export class Theme {
  night = $state(false);
}

/**
 * Follows what the system prefers, also when it changes, until the person chooses a theme; the class of the page is set by `app.html` before it is drawn.
 *
 * @param chosen whether the person chose night; null while they have not chosen
 */
export function followSystem(theme: Theme, chosen: boolean | null): void {
  if (chosen !== null) return;
  onMount(() => {
    const preference = matchMedia('(prefers-color-scheme: dark)');
    const follow = () => {
      if (document.cookie.split('; ').some((cookie) => cookie.startsWith('theme='))) return; // chosen meanwhile
      theme.night = preference.matches;
      document.documentElement.classList.toggle('dark', preference.matches);
    };
    follow();
    preference.addEventListener('change', follow);
    return () => preference.removeEventListener('change', follow);
  });
}

const key = Symbol('theme');
export const provideTheme = (theme: Theme): Theme => setContext(key, theme);
export const useTheme = (): Theme => getContext<Theme>(key);

/** Colours of the theme that the page has; requested once, since charts take the same ones again and again. */
const known = new Map<string, string>();
let knownOf = '';

/** A colour of the theme as the canvas needs it. @example themeColour('--ink') // '#16202e' */
export function themeColour(name: string): string {
  const { documentElement } = document;
  if (documentElement.className !== knownOf) known.clear();
  knownOf = documentElement.className;
  const colour = known.get(name) ?? getComputedStyle(documentElement).getPropertyValue(name).trim();
  if (colour !== '') known.set(name, colour);
  return colour;
}
