import type { Attempt, Check, Phase } from '$lib/core/reachability';
import type { Instant } from '$lib/core/time';
import type { AddressPolicy } from '../providers/port/outbound';
import { askHttp } from './ask-http';
import { askName } from './ask-name';
import { connected } from './connect';
import { AttemptFailed, type Going, type Progress } from './going';

const phaseFailed: Readonly<Record<Phase, string>> = {
  name: 'while the name was looked up',
  connect: 'while connecting',
  secure: 'during the TLS handshake',
  wait: 'while waiting for the answer to begin',
  read: 'while reading the answer'
};

/**
 * Makes one attempt of a check. What goes wrong with what it looks at is the outcome, not an error.
 *
 * @param refusedWhy the policy on addresses; it judges whatever a name leads to
 * @param ending ends it before its time: what comes of it then says nothing of what it looks at
 * @throws only for a fault of Bussola's own
 * @example (await attempt(check, policyOf([]), now)).problem // 'Connection refused by 192.0.2.7.'
 */
export async function attempt(
  { target, within }: Pick<Check, 'target' | 'within'>,
  refusedWhy: AddressPolicy,
  at: Instant,
  ending?: AbortSignal
): Promise<Attempt> {
  const begun = performance.now();
  const progress: Progress = { phases: {}, address: '', status: null, certificateUntil: null, answers: [] };
  const timeout = new AbortController();
  const over = () => timeout.abort();
  const timer = setTimeout(over, within * 1000);
  ending?.addEventListener('abort', over);
  let current: Phase = 'name';
  const going: Going = {
    signal: timeout.signal,
    refusedWhy,
    progress,
    phase: async (name, work) => {
      current = name;
      const from = performance.now();
      try {
        return await orAborted(timeout.signal, work());
      } finally {
        progress.phases[name] = performance.now() - from;
      }
    }
  };
  let problem: string | null = null;
  try {
    await asked();
  } catch (failure) {
    problem = timeout.signal.aborted
      ? `No answer within ${within} s: time ran out ${phaseFailed[current]}.`
      : inWords(failure, progress.address);
  } finally {
    clearTimeout(timer);
    ending?.removeEventListener('abort', over);
    timeout.abort(); // closes whatever is open
  }
  return { at, problem, took: performance.now() - begun, ...progress };

  async function asked(): Promise<void> {
    switch (target.kind) {
      case 'http':
        return askHttp(target, going, at);
      case 'tcp':
        return void (await connected(target.host, target.port, target.secure ? target : null, going, at));
      case 'dns':
        return askName(target, going);
      default:
        throw new TypeError(`attempt: unknown ${JSON.stringify(target satisfies never)}`);
    }
  }
}

/** The result of some work, or a failure as soon as time has run out: some of what is waited for cannot be cancelled. */
function orAborted<Result>(signal: AbortSignal, work: Promise<Result>): Promise<Result> {
  work.catch(() => undefined); // whoever waits has the failure; later ones are of nobody's concern
  return new Promise<Result>((resolve, reject) => {
    const over = () => reject(new AttemptFailed('time ran out'));
    signal.addEventListener('abort', over, { once: true });
    work.then(resolve, reject).finally(() => signal.removeEventListener('abort', over));
  });
}

/** What the system calls failures, in words. */
const failures: Readonly<Record<string, (address: string) => string>> = {
  ENOTFOUND: () => 'There is no such name.',
  ENODATA: () => 'The name has no record of this kind.',
  EAI_AGAIN: () => 'The name server did not answer.',
  ETIMEOUT: () => 'The name server did not answer.',
  ESERVFAIL: () => 'The name server failed.',
  EREFUSED: () => 'The name server refused to answer.',
  ECONNREFUSED: (address) => `The connection was refused${address === '' ? '' : ` by ${address}`}.`,
  ECONNRESET: () => 'The connection was broken off.',
  EPIPE: () => 'The connection was broken off.',
  ETIMEDOUT: () => 'The connection did not come about.',
  EHOSTUNREACH: () => 'There is no way to the host.',
  ENETUNREACH: () => 'There is no way to the network.'
};

function inWords(failure: unknown, address: string): string {
  if (failure instanceof AttemptFailed) return failure.message;
  if (!(failure instanceof Error)) throw failure;
  const code = (failure as NodeJS.ErrnoException).code ?? '';
  if (Object.hasOwn(failures, code)) return (failures[code] as (address: string) => string)(address);
  if (code.startsWith('HPE_')) return 'What came is no HTTP answer.';
  if (code.startsWith('ERR_SSL') || code.startsWith('ERR_TLS') || code === 'EPROTO')
    return 'There is no TLS at this port, or none that both sides speak.';
  if (code === '') throw failure; // a fault of Bussola's own
  return `It failed: ${code}.`;
}
