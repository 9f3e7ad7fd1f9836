import type { Message, MessageContent } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Channel, ChannelSecret } from '../channels';

/** A picture for people who see it, and in words for those who do not. */
export interface Picture {
  readonly png: Buffer;
  readonly alt: string;
}

/** A file that goes with a message. */
export interface EnclosedFile {
  readonly name: string;
  /** Its media type. */
  readonly type: string;
  readonly bytes: Buffer;
}

/** A message on its way to a channel. */
export interface Outgoing {
  /** A UUID, the same for every try: whoever receives it twice knows by it. Of what asks for a confirmation, each try has one of its own. */
  readonly key: string;
  /** What the messages that belong together have in common, such as `thread-7`; null for one that stands alone. */
  readonly thread: string | null;
  readonly channel: Channel;
  readonly secret: ChannelSecret;
  readonly content: MessageContent;
  /** The content in words. */
  readonly message: Message;
  /** Pictures, for kinds that show them, such as of what was measured over the last hours. */
  readonly pictures: readonly Picture[];
  /** Files, for kinds that carry them. */
  readonly files: readonly EnclosedFile[];
  /** When it is sent. */
  readonly at: Instant;
}

/** What was sent and what was answered, for people to read; no secret is in it. */
export interface Exchange {
  readonly request: string;
  readonly answer: string;
}

/** Sends messages to one kind of channel: a folder below this one and a line in `senders.ts` make a further kind. */
export interface Sender {
  /**
   * @returns the exchange, once the message has been taken
   * @throws NotTaken, or any other error, when it was not; it is tried again then
   */
  send(outgoing: Outgoing): Promise<Exchange>;
  close(): void;
}

/** A message was answered, but not taken. */
export class NotTaken extends Error {
  override readonly name = 'NotTaken';

  constructor(
    message: string,
    readonly exchange: Exchange
  ) {
    super(message);
  }
}

/** A message was not taken, and no other will be: whoever received at that address is not there any more. */
export class Gone extends NotTaken {}
