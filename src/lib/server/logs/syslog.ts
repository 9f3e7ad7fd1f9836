import { readFileSync } from 'node:fs';
import { createServer, type AddressInfo, type Server, type Socket } from 'node:net';
import { createServer as createSecureServer } from 'node:tls';
import { setTimeout as wait } from 'node:timers/promises';
import type { Logger } from 'pino';
import { framesOf, lineFaults, longestMessage } from '$lib/core/logs';
import { isRefused, Refusal } from '$lib/core/problem/problem';
import type { Clock } from '$lib/core/time';
import type { Config } from '../base/config';
import type { Database } from '../db/pool';
import type { Disk } from '../base/disk';
import type { KeyUses } from '../intake/receive/key-uses';
import { keyByText, type Key } from '../intake/receive/keys';
import type { ParserPool } from '../parsing/parser-pool';
import type { LogClient } from './open-logs';
import { notTaken } from './feeds/take-page';
import { keepReceived, readReceived } from './receive-lines';

/** What taking syslog needs. */
interface Parts {
  readonly db: Database;
  readonly clock: Clock;
  readonly logs: LogClient;
  readonly disk: Disk;
  readonly uses: KeyUses;
  readonly parsers: ParserPool;
  readonly log: Logger;
}

/** Connections at once, and how long one may say nothing, ms. */
const mostConnections = 1000;
const quietMs = 3_600_000;
/** Bytes that are read together, and how long until what could not be stored is tried again, ms. */
const mostTogether = 262_144;
const againAfterMs = 2000;

/**
 * Takes syslog messages over TCP and TLS, each behind its length. A sender hears nothing back by this protocol; so a connection is read no further until what came is stored, and what cannot be stored for want of room waits for it.
 *
 * @returns what stops it, and the ports at which it listens
 * @throws Refusal for settings that cannot work
 */
export async function startSyslog(
  parts: Parts,
  settings: Config['syslog']
): Promise<{ stop(): Promise<void>; readonly ports: readonly number[] }> {
  const { host, port, securePort, certificate, certificateKey } = settings;
  const open = new Set<Socket>();
  const ending = new AbortController();
  const running = new Set<Promise<void>>();
  const take = (socket: Socket): void => {
    open.add(socket);
    socket.setTimeout(quietMs, () => socket.destroy());
    socket.on('error', (error) => parts.log.debug({ err: error }, 'a sender of syslog went away'));
    const done = read(parts, settings, socket, ending.signal)
      .catch((error: unknown) => {
        if (!ending.signal.aborted) parts.log.error({ err: error }, 'syslog could not be taken');
      })
      .finally(() => {
        socket.destroy();
        open.delete(socket);
        running.delete(done);
      });
    running.add(done);
  };
  const secure = securePort === null ? null : secureServer(certificate, certificateKey, take);
  secure?.on('tlsClientError', (error) => parts.log.debug({ err: error }, 'a sender of syslog was not understood'));
  const servers: Server[] = [];
  const stop = async (): Promise<void> => {
    ending.abort();
    for (const server of servers) server.close();
    for (const socket of open) socket.destroy();
    await Promise.all(running);
  };
  try {
    if (port !== null) servers.push(await listening(createServer(take), port, host));
    if (secure !== null) servers.push(await listening(secure, securePort ?? 0, host));
  } catch (error) {
    await stop(); // the other port is not left open
    throw new Refusal(
      'configuration',
      `Syslog cannot be taken at ${host}: ${error instanceof Error ? error.message : String(error)}.`,
      'Set BUSSOLA_SYSLOG_HOST and the ports to what is free on this machine.',
      { cause: error }
    );
  }
  return { ports: servers.map((server) => (server.address() as AddressInfo).port), stop };
}

function secureServer(certificate: string | null, key: string | null, take: (socket: Socket) => void): Server {
  if (certificate === null || key === null)
    throw new Refusal(
      'configuration',
      'Syslog over TLS has no certificate.',
      'Set BUSSOLA_SYSLOG_CERT and BUSSOLA_SYSLOG_CERT_KEY to its files.'
    );
  try {
    return createSecureServer({ cert: readFileSync(certificate), key: readFileSync(key) }, take);
  } catch (error) {
    throw new Refusal(
      'configuration',
      `The certificate of syslog over TLS cannot be used: ${error instanceof Error ? error.message : String(error)}.`,
      'Set BUSSOLA_SYSLOG_CERT and BUSSOLA_SYSLOG_CERT_KEY to a certificate and its key, as PEM.',
      { cause: error }
    );
  }
}

function listening(server: Server, port: number, host: string): Promise<Server> {
  server.maxConnections = mostConnections;
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, () => {
      server.off('error', reject);
      resolve(server);
    });
  });
}

/** Reads one connection to its end. */
async function read(parts: Parts, { key }: Config['syslog'], socket: Socket, signal: AbortSignal): Promise<void> {
  let held: Buffer = Buffer.alloc(0);
  for await (const chunk of socket as AsyncIterable<Buffer>) {
    held = held.length === 0 ? chunk : Buffer.concat([held, chunk]);
    // More is waited for while there is little, but never for more than is there.
    if (held.length < mostTogether && socket.readableLength > 0) continue;
    const { messages, end, isBroken } = framesOf(held);
    if (messages.length > 0 && !(await keep(parts, key, held.subarray(0, end), signal))) return;
    if (isBroken || held.length - end > longestMessage + 10) {
      parts.log.warn({ from: socket.remoteAddress }, 'a sender of syslog does not say the length of its messages');
      return;
    }
    held = Buffer.from(held.subarray(end));
  }
  // The last of it, where the sender left while more was still to be read.
  const { messages, end } = framesOf(held);
  if (messages.length > 0) await keep(parts, key, held.subarray(0, end), signal);
}

/**
 * Stores messages, and waits for as long as there is no room for them. What cannot be taken is counted.
 *
 * @returns false when nothing may come by this key: then nobody is to be read further
 */
async function keep(parts: Parts, text: string | null, body: Buffer, signal: AbortSignal): Promise<boolean> {
  const { db, clock, disk, uses, log } = parts;
  while (!signal.aborted)
    try {
      const key = text === null ? null : await keyByText(db, text, clock.now());
      if (!maySend(key)) {
        log.warn('syslog came and was not taken: BUSSOLA_SYSLOG_KEY is no key that may send logs');
        return false;
      }
      disk.refuseWhenLow();
      const received = uses.take(key, body.length, clock.now())
        ? await readReceived(parts, key, { format: 'syslog', body, isGzip: false })
        : notTaken(lineFaults.limit, framesOf(body).messages.length, `The key ${key.name} may send no more today.`);
      await keepReceived(parts, key, received);
      return true;
    } catch (error) {
      if (!isRefused(error, 'disk-low', 'busy')) throw error;
      await wait(againAfterMs, undefined, { signal }).catch(() => undefined);
    }
  return false;
}

const maySend = (key: Key | null): key is Key => key?.scopes.includes('logs') ?? false;
