/** The planted troubles of the demo, as spans relative to its start. All of them are made up. */
const minute = 60_000;
const hour = 60 * minute;
const day = 24 * hour;

/** The last two Friday evenings before the start, 17:00 to 20:30 UTC: the connection pool of `ticket-orders` fills. */
export function fridayEvenings(start: number): readonly (readonly [number, number])[] {
  const midnight = Math.floor(start / day) * day;
  const sinceFriday = (new Date(start).getUTCDay() + 2) % 7;
  const last = midnight - sinceFriday * day + 17 * hour;
  const newest = last + 3.5 * hour <= start ? last : last - 7 * day;
  return [newest - 7 * day, newest].map((from) => [from, from + 3.5 * hour] as const);
}

/** How full the pool is by the trouble at a moment, 0 to 1. */
export function poolFilling(start: number, moment: number): number {
  for (const [from, to] of fridayEvenings(start))
    if (moment >= from && moment < to)
      return Math.min(1, (moment - from) / (90 * minute), (to - moment) / (20 * minute));
  return 0;
}

/** Replication of `dorsale-standby` stalled 31 hours before the start and was set going again six hours later. */
export const replicationStall = (start: number) => ({ from: start - 31 * hour, until: start - 25 * hour });

/** `nightly-tariff-load` failed in the last three nights before the start, at 02:10 UTC. */
export function failedNights(start: number): readonly number[] {
  const last = Math.floor((start - (2 * hour + 10 * minute)) / day) * day + 2 * hour + 10 * minute;
  return [last - 2 * day, last - day, last];
}

/** The gateway of the ferry Capra stopped reporting nine hours before the start. */
export const silentGateway = (start: number) => ({ name: 'gateway-capra', from: start - 9 * hour });

/** The store `manifest-archive` doubles in size from five days before the start. */
export const doublingStore = (start: number) => ({ name: 'manifest-archive', from: start - 5 * day });

/** The machine `berth-2` has done nothing since nine days before the start, and goes on costing. */
export const idleMachine = (start: number) => ({ name: 'berth-2', from: start - 9 * day });

/** `vessel-position` is slower than usual for the hour, though below any limit: two hours in the night before the start. */
export const unusualLatency = (start: number) => {
  const from = Math.floor((start - 6 * hour) / day) * day + hour;
  return { name: 'vessel-position', from, until: from + 2 * hour };
};

/** A machine was renamed four days before the start, and stopped for that for a while; its provider kept the id. */
export const renamedMachine = (start: number) => ({
  id: 'lev-m-p-freight-desk-1',
  from: 'freight-desk-0',
  to: 'freight-desk-1',
  stoppedAt: start - 4 * day - 40 * minute,
  at: start - 4 * day
});

/** `seatmap` leaks memory until it is restarted, every nine hours or so. Gives the last restart at or before a moment. */
export function lastRestart(key: number, moment: number): number {
  const every = 9 * hour;
  const index = Math.floor(moment / every);
  const at = (i: number) => i * every + ((((key ^ (i * 2654435761)) >>> 0) % 90) - 45) * minute;
  return at(index + 1) <= moment ? at(index + 1) : at(index) <= moment ? at(index) : at(index - 1);
}
