import escapeHtml from 'escape-html';

/** Text made safe for HTML. */
export const safe = (value: string | number): string => escapeHtml(String(value));

/**
 * A page of a stand-in: plain on purpose, so that nobody takes it for Bussola.
 *
 * @param body HTML, already safe
 * @example page('Levante', '<p>ok</p>')
 */
export const page = (title: string, body: string): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${safe(title)}</title>
<style>
body{font:15px/1.5 system-ui,sans-serif;max-width:64rem;margin:2rem auto;padding:0 1rem;color:#222;background:#fff}
table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.35rem .6rem;border-bottom:1px solid #ddd;vertical-align:top}
input,select,button{font:inherit;padding:.15rem .4rem}form{display:inline-flex;gap:.4rem;align-items:center;flex-wrap:wrap}
.note{background:#eef5ea;border:1px solid #bcd3ae;padding:.5rem .8rem}.quiet{color:#666}iframe{width:100%;height:26rem;border:1px solid #ccc}
pre{white-space:pre-wrap;background:#f6f6f6;padding:.8rem}
</style></head><body><p class="quiet">A stand-in that ships with Bussola. Nothing here is real.</p><h1>${safe(title)}</h1>${body}</body></html>`;
