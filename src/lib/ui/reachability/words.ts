/** Milliseconds as people read them. @example timeWords(3.21) // '3.2 ms' */
export function timeWords(ms: number): string {
  if (ms < 10) return `${ms.toFixed(1)} ms`;
  return ms < 1000 ? `${Math.round(ms)} ms` : `${(ms / 1000).toFixed(1)} s`;
}

const dayMs = 86_400_000;

/** How long a certificate is valid, in whole days. @example validWords(until, now) // '19 days' */
export function validWords(until: number, now: number): string {
  const days = Math.floor((until - now) / dayMs);
  if (days < 0) return 'expired';
  return days === 1 ? '1 day' : `${days} days`;
}

/** Days below which a certificate stands out. */
export const soonDays = 21;
export const isSoon = (until: number, now: number): boolean => until - now < soonDays * dayMs;
