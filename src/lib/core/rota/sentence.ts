import { peopleDay, firstInstantAt, spokenDuration, times, day, weekdayOf } from '../time';
import type { Layer, Rota, WeeklyHours } from './rota';

const weekdayNames = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/**
 * A layer of a rota as a sentence.
 *
 * @param nameOf the name of a person by their id
 * @example layerSentence(layer, rota, nameOf)
 * // 'Nerea Olmo and Ivo Brandt in turn, 1 week each, from Mon 23 Nov 2026, handed over on Mondays at 08:00 in Europe/Rome, on weekdays from 08:00 to 20:00.'
 */
export function layerSentence(
  layer: Layer,
  { zone: rotaZone }: Pick<Rota, 'zone'>,
  nameOf: (personId: number) => string
): string {
  const { people, days, from, until, at, hours } = layer;
  const zone = layer.zone ?? rotaZone;
  const names = people.map(nameOf);
  const who = names.length === 1 ? (names[0] as string) : `${listOf(names)} in turn, ${turnText(days)} each`;
  const handover =
    names.length === 1
      ? ''
      : `, handed over ${days % 7 === 0 ? `on ${weekdayNames[weekdayOf(from) - 1]}s ` : ''}at ${at}`;
  const ends = until === null ? '' : ` until ${peopleDay(firstInstantAt(until, at, zone), zone)}`;
  const begins = `, from ${peopleDay(firstInstantAt(from, at, zone), zone)}${ends}`;
  const open = hours.length === 0 ? '' : `, ${listOf(hours.map(hoursText))}`;
  return `${who}${begins}${handover} in ${zone}${open}.`;
}

const turnText = (days: number): string =>
  days % 7 === 0 ? (days === 7 ? '1 week' : `${days / 7} weeks`) : spokenDuration(times(days, day));

/** Hours of a week in words. @example hoursText({ weekdays: [6, 7], from: '00:00', to: '00:00' }) // 'on weekends all day' */
export function hoursText({ weekdays, from, to }: WeeklyHours): string {
  const sorted = [...new Set(weekdays)].sort((a, b) => a - b).join('');
  const days =
    sorted === '1234567'
      ? 'every day'
      : sorted === '12345'
        ? 'on weekdays'
        : sorted === '67'
          ? 'on weekends'
          : `on ${listOf([...sorted].map((number) => `${weekdayNames[Number(number) - 1]}s`))}`;
  return from === to && from === '00:00' ? `${days} all day` : `${days} from ${from} to ${to}`;
}

const listOf = (names: readonly string[]): string =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
