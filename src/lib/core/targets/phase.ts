/**
 * When within each interval a page is read, ms: the same for a name at all times, and spread evenly over names, so that many pages are not read at once (FNV-1a, 32 bits).
 *
 * @example phaseOf('192.0.2.7:9000', 15_000) // from 0 to 14 999
 */
export function phaseOf(name: string, everyMs: number): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < name.length; i++) hash = Math.imul(hash ^ name.charCodeAt(i), 0x01000193) >>> 0;
  // The last bits of near names are near, too: mixed once more.
  hash = Math.imul(hash ^ (hash >>> 15), 0x85ebca6b) >>> 0;
  return Math.floor((((hash ^ (hash >>> 13)) >>> 0) / 2 ** 32) * everyMs);
}

/**
 * The next moment at which a page is to be read, later than now.
 *
 * @example nextAfter(60_000, 15_000, 2_000) // 62_000
 */
export function nextAfter(now: number, everyMs: number, phase: number): number {
  const next = Math.floor((now - phase) / everyMs) * everyMs + phase + everyMs;
  return next > now ? next : next + everyMs;
}
