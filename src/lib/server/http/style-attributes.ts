/** A start tag up to a style attribute. Svelte writes values in double quotes and escapes `<` and `"` in all text. */
const styleAttribute = /(<[a-zA-Z](?:[^<>"]|"[^"]*")*?)\sstyle="([^"]*)"/g;

/** What could leave a declaration: no style of ours has it, so a value with it comes from somebody's text. */
const escapesItsRule = /[{}<>@\\]|\/\*/;

/**
 * A page as the server drew it, its style attributes moved to one sheet with the page's nonce: so the content security policy need not permit inline styles. The page's
 * script sets them again on its elements, which it may, and then removes the sheet.
 *
 * @param html with the nonce of its scripts, else it is returned as it is
 * @example withoutStyleAttributes('<head></head><script nonce="x"></script><p style="width:3px">').nonce // 'x'
 */
export function withoutStyleAttributes(html: string): { html: string; nonce: string | null } {
  const nonce = /<script[^>]* nonce="([^"]+)"/.exec(html)?.[1] ?? null;
  if (nonce === null) return { html, nonce };
  const numbers = new Map<string, number>();
  const moved = html.replace(styleAttribute, (_whole, before: string, value: string) => {
    if (!numbers.has(value)) numbers.set(value, numbers.size);
    return `${before} data-style="${numbers.get(value)}"`;
  });
  if (numbers.size === 0) return { html, nonce: null };
  const rules = [...numbers].flatMap(([value, number]) => {
    const declarations = value.replaceAll('&quot;', '"').replaceAll('&lt;', '<').replaceAll('&amp;', '&');
    // As strong as an attribute would be, but weaker than what the script sets.
    return escapesItsRule.test(declarations) ? [] : [`[data-style="${number}"]:not(#_){${declarations}}`];
  });
  const sheet = `<style nonce="${nonce}" data-first-styles>${rules.join('')}</style>`;
  return { html: moved.replace('</head>', () => `${sheet}</head>`), nonce };
}

/** A policy that permits sheets with a nonce besides those that it permits already. */
export const permitSheet = (policy: string, nonce: string): string =>
  policy.replace(/style-src ([^;]*)/, (_whole, sources: string) => `style-src ${sources} 'nonce-${nonce}'`);
