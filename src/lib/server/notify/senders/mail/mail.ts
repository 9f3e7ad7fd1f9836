import escapeHtml from 'escape-html';
import nodemailer from 'nodemailer';
import { plainText, type Message } from '$lib/core/notify';
import type { Sender } from '../sender';

/**
 * Sends mail by SMTP. Each message has an id that stays the same however often it is tried; those of one incident refer to the same id, so that mail programs show them as one conversation.
 *
 * @param url such as `smtp://127.0.0.1:4302`
 * @param from the sender's address
 * @param origin Bussola's own address, whose host is in the ids
 * @example await mailSender('smtp://127.0.0.1:4302', 'Bussola <bussola@example.test>', origin).send(outgoing)
 */
export function mailSender(url: string, from: string, origin: string): Sender {
  const transport = nodemailer.createTransport(withUsual(url), { from });
  const { hostname } = new URL(origin);
  const idOf = (name: string) => `<${name}@${hostname}>`;
  return {
    send: async ({ key, thread, channel, message, pictures, files }) => {
      const to = channel.address;
      const root = thread === null ? undefined : idOf(`${thread}.${channel.id}`);
      const { response } = await transport.sendMail({
        to: { name: '', address: to },
        subject: message.subject,
        text: plainText(message),
        html: mailHtml(
          message,
          pictures.map(({ alt }, index) => ({ cid: cidOf(index), alt }))
        ),
        attachments: [
          ...pictures.map(({ png }, index) => ({
            ...{ filename: `${cidOf(index)}.png`, content: png, cid: cidOf(index), contentType: 'image/png' }
          })),
          ...files.map(({ name, type, bytes }) => ({ filename: name, content: bytes, contentType: type }))
        ],
        // One click in the mail program is enough (RFC 8058): the link needs no sign-in.
        ...(message.leave !== undefined && {
          list: { unsubscribe: message.leave },
          headers: { 'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click' }
        }),
        messageId: idOf(key),
        ...(root && { inReplyTo: root, references: root })
      });
      return { request: `Mail to ${to}\nMessage-ID: ${idOf(key)}\nSubject: ${message.subject}`, answer: response };
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

/** What a picture of a mail is called in it. */
const cidOf = (index: number): string => (index === 0 ? 'picture' : `picture-${index + 1}`);

/** A message as HTML that every mail program shows: a heading, a sentence, pictures, a table, a button to acknowledge, one link. All text in it is escaped. */
export function mailHtml(
  { heading, sentence, rows, link, linkText, acknowledge, leave }: Message,
  pictures: readonly { readonly cid: string; readonly alt: string }[] = []
): string {
  const cells = rows.map(
    ([name, value]) =>
      `<tr><td style="padding:4px 16px 4px 0;color:#5a6472">${escapeHtml(name)}</td><td style="padding:4px 0">${escapeHtml(value)}</td></tr>`
  );
  const table =
    cells.length === 0 ? '' : `<table style="border-collapse:collapse;margin:0 0 16px">${cells.join('')}</table>\n`;
  const shown = pictures
    .map(
      ({ cid, alt }) =>
        `<p style="margin:0 0 12px"><img src="cid:${cid}" alt="${escapeHtml(alt)}" width="560" style="max-width:100%;height:auto;border:1px solid #d8cfba"></p>\n`
    )
    .join('');
  const asks =
    acknowledge === undefined
      ? ''
      : `<p style="margin:0 0 12px"><a href="${escapeHtml(acknowledge)}" style="display:inline-block;background:#1f4e63;color:#fbf8f0;padding:8px 16px;border-radius:3px;text-decoration:none">Acknowledge</a></p>\n`;
  const leaves =
    leave === undefined
      ? ''
      : `<p style="font-size:13px;color:#5a6472">You subscribed to this topic. <a href="${escapeHtml(leave)}" style="color:#1f4e63">Leave it</a></p>\n`;
  return `<div style="font:15px/1.5 sans-serif;color:#16202e;max-width:36rem">
<h1 style="font-size:20px;margin:0 0 8px">${escapeHtml(heading)}</h1>
<p style="margin:0 0 12px;white-space:pre-line">${escapeHtml(sentence)}</p>
${shown}${table}${asks}<p><a href="${escapeHtml(link)}" style="color:#1f4e63">${escapeHtml(linkText)}</a></p>
${leaves}</div>`;
}
