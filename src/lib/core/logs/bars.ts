import { day, duration, hour, minute, second, times, type Duration, type Range } from '../time';

/** Lengths of a bar of a histogram that people read easily. */
const lengths: readonly Duration[] = [
  ...[1, 2, 5, 10, 20, 30].map((one) => times(one, second)),
  ...[1, 2, 5, 10, 15, 30].map((one) => times(one, minute)),
  ...[1, 2, 3, 6, 12].map((one) => times(one, hour)),
  day
];
const mostBars = 120;

/** How long a bar of a histogram over a range is. @example barStep(range(now - 3 hours, now)) // 2 minutes */
export const barStep = ({ from, to }: Range): Duration =>
  lengths.find((length) => (to - from) / length <= mostBars) ?? duration(day * Math.ceil((to - from) / day / mostBars));
