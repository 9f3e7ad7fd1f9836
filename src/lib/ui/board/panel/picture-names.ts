import type { PictureKind } from '$lib/core/board';

/** What pictures are called where one is chosen. */
export const pictureNames: Readonly<Record<PictureKind, string>> = {
  lines: 'lines',
  areas: 'areas',
  stacked: 'stacked areas',
  bars: 'bars over time',
  ranks: 'bars by size',
  ring: 'ring',
  number: 'number',
  gauge: 'gauge',
  snapshot: 'snapshot list',
  table: 'table',
  heat: 'heat map',
  histogram: 'histogram',
  text: 'text',
  status: 'status list',
  alarms: 'alarms',
  incidents: 'incidents',
  silent: 'stopped reporting',
  resources: 'resources seen',
  marks: 'marks',
  promises: 'promises',
  log: 'lines of logs'
};
