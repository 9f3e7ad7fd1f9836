import DOMPurify from 'dompurify';
import MarkdownIt from 'markdown-it';

const markdown = new MarkdownIt('commonmark', { html: false, linkify: false, breaks: false });

/** Where the pictures of a text are. */
interface TextContext {
  readonly picture: ((id: number) => string) | null;
}

/** Pictures are those of Bussola alone, written as `![what is seen](picture:3)`: of any other, nothing but what is said to be seen is shown. */
markdown.renderer.rules.image = (tokens, index, _options, env) => {
  const { picture } = env as unknown as TextContext;
  const token = tokens[index];
  const alt = markdown.utils.escapeHtml(token?.content ?? '');
  const id = /^picture:(\d{1,9})$/.exec(String(token?.attrGet('src') ?? ''))?.[1];
  return id === undefined || picture === null ? alt : `<img src="${picture(Number(id))}" alt="${alt}">`;
};

/**
 * CommonMark as HTML that can do nothing: no scripts, no styles, no frames, no forms; links lead only to pages of Bussola or over http, https and mailto.
 *
 * @param href an address within Bussola with the range and what is picked
 * @param picture the address of a picture, where a text may have some
 */
export function cleanText(
  text: string,
  href: (path: string) => string,
  picture: ((id: number) => string) | null = null
): string {
  const fragment = DOMPurify.sanitize(markdown.render(text, { picture } satisfies TextContext), {
    USE_PROFILES: { html: true },
    FORBID_TAGS: [
      'style',
      'form',
      'input',
      'button',
      'textarea',
      'select',
      ...(picture === null ? ['img'] : []),
      'video',
      'audio',
      'picture',
      'source'
    ],
    FORBID_ATTR: ['style', 'id', 'name', 'class'],
    ALLOWED_URI_REGEXP: /^(?:https?:|mailto:|\/(?!\/)|#)/i,
    RETURN_DOM_FRAGMENT: true
  });
  for (const link of fragment.querySelectorAll('a')) {
    const to = link.getAttribute('href') ?? '';
    if (to.startsWith('/')) link.setAttribute('href', href(to));
    else if (!to.startsWith('#')) {
      link.setAttribute('rel', 'noopener noreferrer nofollow');
      link.setAttribute('target', '_blank');
    }
  }
  const holder = document.createElement('div');
  holder.append(fragment);
  return holder.innerHTML;
}
