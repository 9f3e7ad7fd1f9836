import { spokenDuration, type Duration } from '../time';
import { countOf } from '../words/count';
import type { Check, Target } from './check';

/** What a check looks at, as short as a table has it. @example targetWords({ kind: 'tcp', host: 'db.example.test', port: 5432, … }) // 'db.example.test:5432' */
export function targetWords(target: Target): string {
  switch (target.kind) {
    case 'http':
      return target.url;
    case 'tcp':
      return `${target.host.includes(':') ? `[${target.host}]` : target.host}:${target.port}${target.secure ? ' over TLS' : ''}`;
    case 'dns':
      return `${target.record} of ${target.name}${target.server === '' ? '' : ` at ${target.server}`}`;
    default:
      throw new TypeError(`targetWords: unknown ${JSON.stringify(target satisfies never)}`);
  }
}

/**
 * A check in one sentence.
 *
 * @example checkSentence(check) // 'Every minute, GET https://tickets.example.test/ has to answer with 2xx within 10 s; it is down after 2 retries.'
 */
export function checkSentence({ target, every, within, retries }: Check): string {
  const often = `Every ${everyWords(every)}`;
  const down = `it is down ${retries === 0 ? 'at the first failure' : `after ${countOf(retries, 'retry', 'retries')}`}.`;
  return `${often}, ${expectation(target)} within ${within} s; ${down}`;
}

/** How often, after *every*. @example everyWords(60) // 'minute' */
export const everyWords = (seconds: number): string =>
  seconds === 60 ? 'minute' : spokenDuration((seconds * 1000) as Duration);

function expectation(target: Target): string {
  switch (target.kind) {
    case 'http': {
      const { method, url, statuses, contains } = target;
      return `${method} ${url} has to answer with ${statuses.join(' or ')}${contains === '' ? '' : ` and contain “${contains}”`}`;
    }
    case 'tcp':
      return `${targetWords(target)} has to take a connection`;
    case 'dns':
      return `the ${targetWords(target)} has to be ${target.is === '' ? 'found' : target.is}`;
    default:
      throw new TypeError(`expectation: unknown ${JSON.stringify(target satisfies never)}`);
  }
}
