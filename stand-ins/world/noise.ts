/** A number in [0, 1) that depends on nothing but its arguments (the finaliser of MurmurHash3). */
export function unitNoise(key: number, index: number): number {
  let h = Math.imul(key ^ (index | 0), 0x85ebca6b) ^ Math.imul(Math.floor(index / 4294967296) | 0, 0x27d4eb2f);
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  h ^= h >>> 16;
  return (h >>> 0) / 4294967296;
}

/** FNV-1a, 32 bits. */
export function textHash(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return h;
}

/** What the noise of one series depends on. */
export const seriesKey = (seed: number, series: string): number => Math.imul(seed, 0x9e3779b1) ^ textHash(series);

/** A slow wander between 0 and 1: noise at every so many milliseconds, twenty minutes by default, joined smoothly. */
export function wander(key: number, moment: number, every = 1_200_000): number {
  const place = moment / every;
  const whole = Math.floor(place);
  const part = place - whole;
  const ease = part * part * (3 - 2 * part);
  return unitNoise(key ^ 0x5bd1, whole) * (1 - ease) + unitNoise(key ^ 0x5bd1, whole + 1) * ease;
}

/** Rounded to so many decimals, as agents report. */
export const rounded = (value: number, decimals: number): number => Math.round(value * 10 ** decimals) / 10 ** decimals;
