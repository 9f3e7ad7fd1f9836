import { getContext, setContext } from 'svelte';

/** Day or night; charts are painted anew when it changes. */
export class Theme {
  night = $state(false);
}

const key = Symbol('theme');
export const provideTheme = (theme: Theme): Theme => setContext(key, theme);
export const useTheme = (): Theme => getContext<Theme>(key);

/** The colours of the theme as the canvas needs them, each asked for once: a chart of many lines takes the same ones again and again. */
export function themeColours(): (name: string) => string {
  const style = getComputedStyle(document.documentElement);
  const known = new Map<string, string>();
  return (name) => {
    const colour = known.get(name) ?? style.getPropertyValue(name).trim();
    known.set(name, colour);
    return colour;
  };
}

/** A colour of the theme as the canvas needs it. @example themeColour('--ink') // '#16202e' */
export const themeColour = (name: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(name).trim();
