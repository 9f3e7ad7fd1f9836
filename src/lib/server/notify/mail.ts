import escapeHtml from 'escape-html';
import nodemailer from 'nodemailer';
import type { Message } from '$lib/core/notify';

export interface Mailer {
  /** @throws when the mail server does not take the mail */
  send(mail: { to: string; subject: string; text: string; html: string }): Promise<void>;
  close(): void;
}

/**
 * Sends mail by SMTP.
 *
 * @param url such as `smtp://127.0.0.1:4302`
 * @param from the sender's address
 * @example await smtpMailer('smtp://127.0.0.1:4302', 'Bussola <bussola@example.test>').send(mail)
 */
export function smtpMailer(url: string, from: string): Mailer {
  const transport = nodemailer.createTransport(withUsual(url), { from });
  return {
    send: async ({ to, subject, text, html }) => {
      await transport.sendMail({ to: { name: '', address: to }, subject, text, html });
    },
    close: () => transport.close()
  };
}

/** Several mails at a time; a server that says nothing holds nobody up for long, since its mail is tried again. What the address says itself counts. */
function withUsual(address: string): string {
  const url = new URL(address);
  for (const [name, value] of Object.entries(usual))
    if (!url.searchParams.has(name)) url.searchParams.set(name, String(value));
  return url.href;
}

const usual = {
  pool: true,
  maxConnections: 5,
  connectionTimeout: 10_000,
  greetingTimeout: 10_000,
  socketTimeout: 30_000
};

/** A message as HTML that every mail program shows: a heading, a sentence, a table, one link. All text in it is escaped. */
export function mailHtml({ heading, sentence, rows, link }: Message, linkText: string): string {
  const cells = rows.map(
    ([name, value]) =>
      `<tr><td style="padding:4px 16px 4px 0;color:#5a6472">${escapeHtml(name)}</td><td style="padding:4px 0">${escapeHtml(value)}</td></tr>`
  );
  return `<div style="font:15px/1.5 sans-serif;color:#16202e;max-width:36rem">
<h1 style="font-size:20px;margin:0 0 8px">${escapeHtml(heading)}</h1>
<p style="margin:0 0 12px">${escapeHtml(sentence)}</p>
<table style="border-collapse:collapse;margin:0 0 16px">${cells.join('')}</table>
<p><a href="${escapeHtml(link)}" style="color:#1f4e63">${escapeHtml(linkText)}</a></p>
</div>`;
}
