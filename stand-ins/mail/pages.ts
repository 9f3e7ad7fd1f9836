import type { FastifyInstance } from 'fastify';
import { behaviourForm, behaviourRoute } from '../messaging/behaviour';
import { page, safe } from '../page';
import type { Mailbox, ReceivedMail } from './mailbox';

/** The files that a mail carries, to be taken. */
const files = ({ id, files: carried }: ReceivedMail): string =>
  carried.length === 0
    ? ''
    : `<h2>Files</h2><ul>${carried.map(({ name, bytes }, index) => `<li><a href="/mail/${id}/files/${index}">${safe(name)}</a>, ${Math.ceil(bytes.length / 1000)} kB</li>`).join('')}</ul>`;

/** The inbox for people at `/mail`, and the same as JSON at `/mail/messages` for tests. */
export function mailPages(app: FastifyInstance, { mailbox }: { mailbox: Mailbox }, done: () => void): void {
  app.get('/mail', (_request, reply) => {
    const rows = mailbox.mails.map(
      ({ id, to, subject, receivedAt }) =>
        `<tr><td>${safe(new Date(receivedAt).toISOString().slice(0, 16).replace('T', ' '))} UTC</td><td>${safe(to.join(', '))}</td><td><a href="/mail/${id}">${safe(subject)}</a></td></tr>`
    );
    const list = rows.length
      ? `<table><thead><tr><th>Received</th><th>To</th><th>Subject</th></tr></thead><tbody>${rows.join('')}</tbody></table>`
      : '<p>No mail yet. Add a channel in Bussola, or stress a resource until an alarm is raised: the mail arrives here.</p>';
    return reply
      .type('text/html')
      .send(page('Inbox of everyone at Corallo Lines', behaviourForm('/mail', mailbox.behaving) + list));
  });

  app.get('/mail/messages', () =>
    mailbox.mails.map((mail) => ({
      ...mail,
      files: mail.files.map(({ name, type, bytes }) => ({ name, type, length: bytes.length }))
    }))
  );

  app.get('/mail/:id/files/:number', (request, reply) => {
    const { id, number } = request.params as { id: string; number: string };
    const file = mailbox.mails.find((mail) => String(mail.id) === id)?.files[Number(number)];
    if (!file) return reply.status(404).type('text/plain').send('No such file');
    return reply
      .type(file.type)
      .header('content-disposition', `attachment; filename="${file.name.replace(/[^\w.-]/g, '_')}"`)
      .send(file.bytes);
  });

  app.get('/mail/:id', (request, reply) => {
    const mail = mailbox.mails.find(({ id }) => String(id) === (request.params as { id: string }).id);
    if (!mail)
      return reply
        .status(404)
        .type('text/html')
        .send(page('No such mail', '<p><a href="/mail">Back to the inbox</a></p>'));
    const body = `<p><a href="/mail">Back to the inbox</a></p><p>From ${safe(mail.from)}<br>To ${safe(mail.to.join(', '))}</p>
<iframe title="HTML part" sandbox="allow-popups allow-top-navigation-by-user-activation" srcdoc="${safe(`<base target="_top">${mail.html}`)}"></iframe>
${files(mail)}<h2>Text part</h2><pre>${safe(mail.text)}</pre>`;
    return reply.type('text/html').send(page(mail.subject, body));
  });
  behaviourRoute(app, '/mail', mailbox.behaving);
  done();
}
