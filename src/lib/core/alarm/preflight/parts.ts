import { circleFrom } from '../combine';
import type { AlarmDefinition } from '../schema';
import { failed, type Check } from './check';

/** Whether a combined alarm would combine itself, by way of others. */
export const circleCheck: Check = (alarm, { alarms, id }) => {
  if (id === null || !alarm.combines) return [];
  const saved = new Map(alarms.map((one) => [one.id, one.definition]));
  const partsOf = (of: number) => combinedIds(of === id ? alarm : saved.get(of));
  const circle = circleFrom(id, partsOf);
  if (circle === null) return [];
  const names = circle.map((one) => `“${one === id ? alarm.name : (saved.get(one)?.name ?? one)}”`).join(' combines ');
  const parts = alarm.combines.parts.filter(
    (part) => !('alarm' in part) || circleFrom(id, (of) => (of === id ? [part.alarm] : partsOf(of))) === null
  );
  return failed(
    'circle',
    `It combines itself: ${names}.`,
    parts.length >= 2
      ? { says: 'Leave that part out', alarm: { ...alarm, combines: { ...alarm.combines, parts } } }
      : undefined
  );
};

/** The alarms that an alarm combines. */
export const combinedIds = (alarm: Pick<AlarmDefinition, 'combines'> | undefined): number[] =>
  (alarm?.combines?.parts ?? []).flatMap((part) => ('alarm' in part ? [part.alarm] : []));
