/** What a part of Corallo Lines does, which decides the shape of its load. */
export type Role = 'web' | 'gate' | 'desk' | 'display' | 'tariff' | 'vessel' | 'archive';

/**
 * The load of a part, 0 to about 1.3: mornings and early evenings peak, nights are quiet, weekends and the first day of a month differ,
 * a departure every 40 minutes brings ticket checks, and fares are recomputed at 02:00 UTC.
 *
 * @param moment milliseconds since the epoch
 * @example loadOf('tariff', Date.UTC(2026, 4, 4, 2, 10)) // about 1.1
 */
export function loadOf(role: Role, moment: number): number {
  const date = new Date(moment);
  const hours = date.getUTCHours() + date.getUTCMinutes() / 60 + date.getUTCSeconds() / 3600;
  const weekend = date.getUTCDay() === 0 || date.getUTCDay() === 6;
  const people =
    (0.12 + 0.62 * peak(hours, 7, 1.9) + 0.7 * peak(hours, 17.5, 2.3) + 0.3 * peak(hours, 12.5, 2.6)) *
    (weekend ? 1.15 : 1);
  const sinceDeparture = Math.floor(moment / 1000) % 2400;
  const departure = hours > 5 && hours < 22.5 && sinceDeparture < 480 ? Math.sin((Math.PI * sinceDeparture) / 480) : 0;
  switch (role) {
    case 'web':
      return people * (date.getUTCDate() === 1 ? 1.2 : 1);
    case 'gate':
      return 0.35 * people + 0.55 * departure;
    case 'desk':
      return weekend ? 0.15 : 0.1 + 0.5 * peak(hours, 10, 3.2);
    case 'display':
      return 0.25 + 0.12 * departure;
    case 'tariff':
      return 0.08 + (hours >= 2 && hours < 2.7 ? 1.05 : 0);
    case 'vessel':
      return hours > 5 && hours < 22.5 ? 0.5 + 0.3 * departure : 0.15;
    case 'archive':
      return 0.2 + 0.5 * peak(hours, 1, 1.2) + 0.1 * people;
    default:
      throw new RangeError(`loadOf: no role "${String(role satisfies never)}"`);
  }
}

/** A hump of the day, 1 at its centre. Not within `loadOf`, which is called millions of times: a function made there would be made as often. */
const peak = (hours: number, centre: number, width: number): number => Math.exp(-(((hours - centre) / width) ** 2));

const wave = (2 * Math.PI) / 86_400;
/** The integral of a daily wave around 1: what has come by a moment, in seconds, of something that comes at a rate of 0.5 to 1.5. */
export const dailyWaveUntil = (seconds: number): number => seconds - (0.5 / wave) * Math.sin(wave * seconds);
