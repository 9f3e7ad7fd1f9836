import { createSocket, type Socket } from 'node:dgram';
import { setTimeout } from 'node:timers/promises';
import { decode, encode, type Answer, type Packet, type Question } from 'dns-packet';
import { slowMs } from './behaviour';
import { secureName, type Front } from './front';

/** What the name server knows. */
const zone: readonly Answer[] = [
  { type: 'A', name: secureName, ttl: 60, data: '192.0.2.10' },
  { type: 'AAAA', name: secureName, ttl: 60, data: '2001:db8::10' },
  { type: 'A', name: 'timetable.corallo.example.test', ttl: 60, data: '192.0.2.11' },
  { type: 'CNAME', name: 'www.corallo.example.test', ttl: 60, data: secureName },
  {
    type: 'MX',
    name: 'corallo.example.test',
    ttl: 60,
    data: { exchange: 'mail.corallo.example.test', preference: 10 }
  },
  { type: 'NS', name: 'corallo.example.test', ttl: 60, data: 'ns.corallo.example.test' },
  { type: 'TXT', name: 'corallo.example.test', ttl: 60, data: 'harbour=perla' }
];
/** What it answers when it behaves wrongly. */
const wrongAddress = '192.0.2.99';
/** Response codes of RFC 1035, section 4.1.1. */
const codes = { failure: 2, noSuchName: 3 } as const;
const isAuthoritative = 1 << 10;

/**
 * A name server over UDP for the names of Corallo Lines.
 *
 * @param port 0 takes any free one
 */
export async function listenForNames(port: number, front: Front): Promise<Socket> {
  const socket = createSocket('udp4');
  socket.on('message', (message, { port: from, address }) => {
    void answerTo(front, message).then((answer) => {
      if (answer !== null) socket.send(answer, from, address);
    });
  });
  await new Promise<void>((resolve, reject) => {
    socket.once('error', reject);
    socket.bind(port, '127.0.0.1', resolve);
  });
  front.ports.names = socket.address().port;
  return socket;
}

async function answerTo({ behaving }: Front, message: Buffer): Promise<Buffer | null> {
  const behaviour = behaving.names;
  if (behaviour === 'silent' || behaviour === 'closed') return null;
  let asked: Packet;
  try {
    asked = decode(message);
  } catch {
    return null; // no DNS message: a name server says nothing to that
  }
  if (behaviour === 'slow') await setTimeout(slowMs);
  const [question] = asked.questions ?? [];
  const base: Packet = { type: 'response', id: asked.id ?? 0, questions: asked.questions ?? [] };
  if (question === undefined || behaviour === 'failing') return encode({ ...base, flags: codes.failure });
  const answers = found(question).map((one) =>
    one.type === 'A' && behaviour === 'wrong' ? { ...one, data: wrongAddress } : one
  );
  const isKnown = zone.some(({ name }) => name === question.name.toLowerCase());
  return encode({ ...base, flags: isAuthoritative | (isKnown ? 0 : codes.noSuchName), answers });
}

const found = ({ name, type }: Question): Answer[] =>
  zone.filter((one) => one.name === name.toLowerCase() && one.type === type);
