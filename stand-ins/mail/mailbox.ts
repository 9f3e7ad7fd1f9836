import { simpleParser, type ParsedMail } from 'mailparser';
import { Behaving } from '../messaging/behaviour';
import type { Readable } from 'node:stream';

export interface ReceivedMail {
  readonly id: number;
  readonly receivedAt: number;
  readonly from: string;
  readonly to: readonly string[];
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  readonly messageId: string;
  /** What it belongs to, by the id of its conversation. */
  readonly inReplyTo: string;
  /** How its reader leaves a list: the addresses, and whether one click is enough (RFC 8058). */
  readonly unsubscribe: string;
  readonly oneClick: string;
  /** What it carries besides its text and the pictures in it. */
  readonly files: readonly ReceivedFile[];
}

/** A file that a mail carries. */
export interface ReceivedFile {
  readonly name: string;
  /** Its media type. */
  readonly type: string;
  readonly bytes: Buffer;
}

/** Mails stored at most; the oldest are dropped first. */
const most = 500;

/** What arrived by SMTP, newest first. */
export class Mailbox {
  readonly behaving = new Behaving();
  #mails: ReceivedMail[] = [];
  #count = 0;

  get mails(): readonly ReceivedMail[] {
    return this.#mails;
  }

  async receive(stream: Readable, recipients: readonly string[], now: number): Promise<void> {
    const parsed = await simpleParser(stream);
    const mail = {
      id: ++this.#count,
      receivedAt: now,
      from: parsed.from?.text ?? '',
      to: recipients,
      subject: parsed.subject ?? '',
      text: parsed.text ?? '',
      html: parsed.html || '',
      messageId: parsed.messageId ?? '',
      inReplyTo: parsed.inReplyTo ?? '',
      unsubscribe: lineOf(parsed, 'list-unsubscribe'),
      oneClick: lineOf(parsed, 'list-unsubscribe-post'),
      files: parsed.attachments
        .filter(({ related }) => !related)
        .map(({ filename, contentType, content }) => ({ name: filename ?? '', type: contentType, bytes: content }))
    };
    this.#mails = [mail, ...this.#mails].slice(0, most);
  }
}

/** A line of the head of a mail as it came, without its name; empty for none. */
const lineOf = ({ headerLines }: ParsedMail, name: string): string =>
  headerLines
    .find(({ key }) => key === name)
    ?.line.replace(/^[^:]*:\s*/, '')
    .replace(/\s+/g, ' ') ?? '';
