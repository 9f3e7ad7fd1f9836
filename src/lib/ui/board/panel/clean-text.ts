import DOMPurify from 'dompurify';
import MarkdownIt from 'markdown-it';

const markdown = new MarkdownIt('commonmark', { html: false, linkify: false, breaks: false });

/**
 * CommonMark as HTML that can do nothing: no scripts, no styles, no frames, no forms; links lead only to pages of Bussola or over http, https and mailto.
 *
 * @param href an address within Bussola with the range and what is picked
 */
export function cleanText(text: string, href: (path: string) => string): string {
  const fragment = DOMPurify.sanitize(markdown.render(text), {
    USE_PROFILES: { html: true },
    FORBID_TAGS: [
      'style',
      'form',
      'input',
      'button',
      'textarea',
      'select',
      'img',
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
