/** Longest search, and how deep its brackets may go. */
export const mostSearchCharacters = 2000;
export const mostSearchDepth = 40;
