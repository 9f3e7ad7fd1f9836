import { getContext, setContext } from 'svelte';

/** Day or night; charts are painted anew when it changes. */
export class Theme {
  night = $state(false);
}

const key = Symbol('theme');
export const provideTheme = (theme: Theme): Theme => setContext(key, theme);
export const useTheme = (): Theme => getContext<Theme>(key);

/** A colour of the theme as the canvas needs it. @example themeColour('--ink') // '#16202e' */
export const themeColour = (name: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(name).trim();
